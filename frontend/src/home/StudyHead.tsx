/* A study's name and what it is about, with what can be done to it. */
import { useQueryClient } from "@tanstack/react-query";
import { MoreHorizontal } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { answer, api } from "../api/client";
import { attempted } from "../api/files";
import { keys } from "../api/hooks";
import type { KeepStudy, Study } from "../api/schema";
import { Ask } from "../ui/Ask";
import { Button } from "../ui/Button";
import { Field } from "../ui/Field";
import { MENU, MENU_ITEM } from "../ui/menu";

export function StudyHead({ study }: { study: Study }) {
  const queries = useQueryClient();
  const [asked, setAsked] = useState<"rename" | "describe" | null>(null);
  const [text, setText] = useState("");
  const keep = async (change: KeepStudy["change"]) => {
    const path = { params: { path: { id: study.id } }, body: { change } };
    if (!(await attempted(answer(api.POST("/api/studies/{id}/keep", path))))) return;
    queries.invalidateQueries({ queryKey: keys.studies });
    queries.invalidateQueries({ queryKey: keys.study(study.id) });
    setAsked(null);
  };
  const ask = (next: "rename" | "describe") => {
    setText(next === "rename" ? study.name : (study.description ?? ""));
    setAsked(next);
  };
  return (
    <div>
      <h1 className="flex items-center gap-2 text-xl">
        <span className="min-w-0 truncate">{study.name}</span>
        {study.archived && <span className="font-sans text-sm font-normal text-graphite">put away</span>}
        <DropdownMenu.Root modal={false}>
          <DropdownMenu.Trigger asChild>
            <Button look="icon" aria-label="More for the study" title="More">
              <MoreHorizontal size={16} />
            </Button>
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="start" className={`font-sans ${MENU}`}>
              <DropdownMenu.Item className={MENU_ITEM} onSelect={() => ask("rename")}>
                Rename the study…
              </DropdownMenu.Item>
              <DropdownMenu.Item className={MENU_ITEM} onSelect={() => ask("describe")}>
                Describe the study…
              </DropdownMenu.Item>
              <DropdownMenu.Item className={MENU_ITEM} asChild>
                <a href={`/api/studies/${study.id}/archive.zip`} download>
                  Take the study along, as one file
                </a>
              </DropdownMenu.Item>
              <DropdownMenu.Item
                className={MENU_ITEM}
                onSelect={() => keep({ kind: "archive", archived: !study.archived })}
              >
                {study.archived ? "Bring the study back" : "Put the study away"}
              </DropdownMenu.Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      </h1>
      {study.description && <p className="line-clamp-2 max-w-[80ch] text-graphite">{study.description}</p>}
      <Ask
        open={asked !== null}
        title={asked === "rename" ? "Rename the study" : "Describe the study"}
        onClose={() => setAsked(null)}
      >
        <form
          onSubmit={(event) => {
            event.preventDefault();
            keep(asked === "rename" ? { kind: "rename", title: text } : { kind: "describe", text });
          }}
          className="flex flex-col gap-3"
        >
          <Field
            label={asked === "rename" ? "Name" : "Description"}
            value={text}
            onChange={setText}
            maxLength={asked === "rename" ? 200 : 4000}
            autoFocus
          />
          <Button
            look="accent"
            type="submit"
            disabled={asked === "rename" && !text.trim()}
            className="self-end"
          >
            Keep
          </Button>
        </form>
      </Ask>
    </div>
  );
}
