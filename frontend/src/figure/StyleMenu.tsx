/* Styles: looks kept by name, applied to any figure, one of them the study's. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { answer, api } from "../api/client";
import { attempted } from "../api/files";
import { keys, useStudies } from "../api/hooks";
import { useOpenRun } from "../run/state/open";
import { Ask } from "../ui/Ask";
import { Button } from "../ui/Button";
import { Field } from "../ui/Field";
import { MENU, MENU_ITEM } from "../ui/menu";
import type { Look } from "./look";

const STYLES = ["styles"] as const;

export function StyleMenu({ look }: { look: Look }) {
  const { view, act } = useOpenRun();
  const queries = useQueryClient();
  const { data: styles = [] } = useQuery({ queryKey: STYLES, queryFn: () => answer(api.GET("/api/styles")) });
  const { data: studies = [] } = useStudies();
  const [name, setName] = useState<string | null>(null);
  const study = studies.find((each) => each.id === view.run.study_id);
  const attempt = async (what: Promise<unknown>, done: string) => {
    if (!(await attempted(what, done))) return;
    await queries.invalidateQueries({ queryKey: STYLES });
    await queries.invalidateQueries({ queryKey: keys.studies });
  };
  const save = () => {
    const called = name!.trim();
    setName(null);
    attempt(answer(api.POST("/api/styles", { body: { name: called, look } })), `Style “${called}” saved.`);
  };
  const openIn = (style: number | null) =>
    attempt(
      answer(
        api.PUT("/api/studies/{id}/style", { params: { path: { id: view.run.study_id } }, body: { style } }),
      ),
      style === null
        ? "Figures of this study open in no style."
        : "Figures of this study open in that style.",
    );
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger asChild>
          <Button look="text">Styles…</Button>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="start" className={`max-h-[420px] overflow-auto ${MENU}`}>
            {styles.map((style) => (
              <DropdownMenu.Sub key={style.id}>
                <DropdownMenu.SubTrigger className={MENU_ITEM}>
                  {style.body.name}
                  {style.id === study?.style_id && <span className="text-graphite"> · this study’s</span>}
                </DropdownMenu.SubTrigger>
                <DropdownMenu.Portal>
                  <DropdownMenu.SubContent className={MENU}>
                    <DropdownMenu.Item
                      className={MENU_ITEM}
                      onSelect={() =>
                        act({
                          kind: "change",
                          changes: [{ kind: "apply_style", style: style.body }],
                          words: `Style ${style.body.name}`,
                        })
                      }
                    >
                      Apply
                    </DropdownMenu.Item>
                    <DropdownMenu.Item
                      className={MENU_ITEM}
                      onSelect={() => openIn(style.id === study?.style_id ? null : style.id)}
                    >
                      {style.id === study?.style_id
                        ? "No longer this study’s"
                        : "Open this study’s figures in it"}
                    </DropdownMenu.Item>
                    <DropdownMenu.Item
                      className={MENU_ITEM}
                      onSelect={() =>
                        attempt(
                          answer(api.DELETE("/api/styles/{id}", { params: { path: { id: style.id } } })),
                          `Style “${style.body.name}” removed.`,
                        )
                      }
                    >
                      Remove
                    </DropdownMenu.Item>
                  </DropdownMenu.SubContent>
                </DropdownMenu.Portal>
              </DropdownMenu.Sub>
            ))}
            {styles.length > 0 && <DropdownMenu.Separator className="my-1 border-t border-rule" />}
            <DropdownMenu.Item className={MENU_ITEM} onSelect={() => setName("")}>
              Save this look as a style…
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <Ask
        open={name !== null}
        title="Save this look as a style"
        detail="Paper, face, axes, colors and bars are kept; titles, ends of axes and names stay with this figure."
        onClose={() => setName(null)}
      >
        <form
          onSubmit={(event) => {
            event.preventDefault();
            if (name?.trim()) save();
          }}
          className="flex flex-col gap-3"
        >
          <Field label="Name" value={name ?? ""} onChange={setName} maxLength={120} autoFocus />
          <Button look="accent" type="submit" disabled={!name?.trim()} className="self-end">
            Save style
          </Button>
        </form>
      </Ask>
    </>
  );
}
