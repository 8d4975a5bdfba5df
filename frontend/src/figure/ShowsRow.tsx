/* What the figure shows: a kind of picture, of this run alone or with others of its study. */
import { DropdownMenu } from "radix-ui";
import { useRunsOf } from "../api/hooks";
import { useOpenRun } from "../run/state/open";
import { Button } from "../ui/Button";
import { Pick } from "../ui/Choice";
import type { Drawn, Look } from "./look";

const ARRANGED = [
  { value: "over", text: "over each other" },
  { value: "beside", text: "side by side, A, B, C" },
] as const;
const PANELS = [
  { value: "one", text: "in one panel" },
  { value: "each", text: "a panel for each series" },
] as const;

interface Props {
  look: Look;
  drawn: Drawn;
  keep: (look: Look) => void;
}

export function ShowsRow({ look, drawn, keep }: Props) {
  const { view } = useOpenRun();
  const { data } = useRunsOf(view.run.study_id);
  const others = (data?.runs ?? []).filter((each) => each.id !== view.run.id);
  const chosen = new Map(look.others.map((each) => [each.run, each]));
  const kinds = [
    { value: "curve", text: "points and curve" },
    { value: "residuals", text: "residuals" },
    { value: "answers", text: "answers with intervals" },
    { value: "wall", text: "a wall of small panels" },
    ...(view.revision.method.question === "dose"
      ? [{ value: "before_after" as const, text: "before and after normalizing" }]
      : []),
    ...(view.revision.outcome.part.kind === "mortality" &&
    (view.revision.outcome.part.over_time ?? []).length > 0
      ? [{ value: "over_time" as const, text: "lethal doses over time" }]
      : []),
    ...((view.readings.channels ?? []).length > 1
      ? [{ value: "scans" as const, text: "every column against x, as scans" }]
      : []),
  ] as const;
  const toggle = (run: number, revision: number) =>
    keep({
      ...look,
      others: chosen.has(run)
        ? look.others.filter((each) => each.run !== run)
        : [...look.others, { run, revision }],
    });
  const follow = () =>
    keep({
      ...look,
      others: look.others.map((each) => {
        const newer = drawn.moved.find((one) => one.run === each.run);
        return newer ? { run: each.run, revision: newer.current } : each;
      }),
    });
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-1.5 gap-y-1 text-sm">
        <span className="text-graphite">Shows</span>
        <Pick
          label="What the figure shows"
          value={look.kind}
          options={kinds}
          onChange={(kind) => keep({ ...look, kind })}
        />
        {look.kind !== "before_after" && others.length > 0 && (
          <DropdownMenu.Root>
            <DropdownMenu.Trigger asChild>
              <Button look="text">
                {look.others.length === 0 ? "with other runs…" : `with ${look.others.length} more…`}
              </Button>
            </DropdownMenu.Trigger>
            <DropdownMenu.Portal>
              <DropdownMenu.Content
                align="end"
                className="z-50 max-h-[420px] overflow-auto rounded-md border border-rule bg-chalk p-1 shadow-lg"
              >
                {others.map((each) => (
                  <DropdownMenu.CheckboxItem
                    key={each.id}
                    checked={chosen.has(each.id)}
                    onSelect={(event) => event.preventDefault()}
                    onCheckedChange={() => toggle(each.id, each.revision)}
                    className="relative rounded-md py-1 pr-3 pl-7 outline-none data-[highlighted]:bg-permanganate-tint"
                  >
                    <DropdownMenu.ItemIndicator className="absolute left-2">✓</DropdownMenu.ItemIndicator>
                    {each.title}
                  </DropdownMenu.CheckboxItem>
                ))}
              </DropdownMenu.Content>
            </DropdownMenu.Portal>
          </DropdownMenu.Root>
        )}
        {look.others.length > 0 && look.kind !== "answers" && (
          <Pick
            label="How the runs are arranged"
            value={look.arrange}
            options={ARRANGED}
            onChange={(arrange) => keep({ ...look, arrange })}
          />
        )}
        {look.others.length === 0 && look.kind !== "wall" && drawn.series.length > 1 && (
          <Pick
            label="Panels"
            value={look.panels ? "each" : "one"}
            options={PANELS}
            onChange={(panels) => keep({ ...look, panels: panels === "each" })}
          />
        )}
      </div>
      {drawn.moved.length > 0 && (
        <p className="text-sm text-iodine">
          {drawn.moved
            .map((each) => `${each.title} is at revision ${each.current}, shown in ${each.revision}`)
            .join("; ")}
          .{" "}
          <Button look="text" onClick={follow}>
            Follow
          </Button>
        </p>
      )}
    </>
  );
}
