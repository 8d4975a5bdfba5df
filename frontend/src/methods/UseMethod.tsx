/* New readings by a method: the study is asked for where there are several, then the readings are brought in. */
import { useState } from "react";
import { useNavigate } from "react-router";
import { useStudies } from "../api/hooks";
import { Ask } from "../ui/Ask";
import { Button } from "../ui/Button";
import { Pick } from "../ui/Choice";

export function UseMethod({ method }: { method: number }) {
  const navigate = useNavigate();
  const { studies, study, setStudy } = useStudyChoice();
  const [asking, setAsking] = useState(false);
  const go = () => navigate(`/studies/${study}/new?method=${method}`);
  return (
    <>
      <Button
        look="accent"
        disabled={studies.length === 0}
        title={studies.length === 0 ? "Make a study first; runs belong to one." : undefined}
        onClick={() => (studies.length === 1 ? go() : setAsking(true))}
      >
        Use on new readings
      </Button>
      <Ask open={asking} title="Where does the run belong?" onClose={() => setAsking(false)}>
        <form
          className="flex flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            go();
          }}
        >
          <p className="flex items-center gap-2">
            To the study
            <Pick label="Study" value={study} options={studies} onChange={setStudy} />
          </p>
          <Button look="accent" type="submit" className="self-end">
            Bring readings in
          </Button>
        </form>
      </Ask>
    </>
  );
}

/** The studies a run can go to, and the one that is chosen: the newest until a person says. */
export function useStudyChoice() {
  const found = useStudies().data?.filter((each) => !each.archived) ?? [];
  const studies = found.map((each) => ({ value: String(each.id), text: each.name }));
  const [chosen, setStudy] = useState<string | null>(null);
  const study = chosen ?? studies.at(-1)?.value ?? "";
  return { studies, study, setStudy };
}
