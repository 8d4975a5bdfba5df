/* A study read in from the file that another Dosis, or this one, made of it. */
import { useRef, useState } from "react";
import { answer, api, problemOf } from "../api/client";
import { Button } from "../ui/Button";
import { Progress } from "../upload/Progress";
import { useUpload } from "../upload/useUpload";

export function ReadStudyIn({ onDone }: { onDone: (study: number) => void }) {
  const input = useRef<HTMLInputElement>(null);
  const { coming, upload, stop } = useUpload();
  const [reading, setReading] = useState(false);
  const [problem, setProblem] = useState("");
  const take = async (file: File | undefined) => {
    if (!file) return;
    setProblem("");
    try {
      const kept = await upload(file);
      if (!kept) return;
      setReading(true);
      const study = await answer(api.POST("/api/files/{id}/study", { params: { path: { id: kept.id } } }));
      onDone(study.id);
    } catch (error) {
      const { title, detail } = problemOf(error);
      setProblem(`${title} ${detail}`);
    }
    setReading(false);
  };
  return (
    <div className="flex flex-col gap-2 border-t border-rule pt-3">
      {coming ? (
        <Progress text={`Sending ${coming.name} …`} share={coming.share} onStop={stop} />
      ) : (
        <p className="flex items-center justify-between gap-2 text-graphite">
          {reading ? "Reading the study in …" : "Or read one in from the file that was made of it:"}
          <Button disabled={reading} onClick={() => input.current?.click()}>
            Choose a file…
          </Button>
        </p>
      )}
      <input
        ref={input}
        type="file"
        accept=".zip"
        aria-label="File of a study"
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          take(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
      {problem && (
        <p role="alert" className="text-cinnabar">
          {problem}
        </p>
      )}
    </div>
  );
}
