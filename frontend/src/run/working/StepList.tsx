/* The working: numbered steps on a line. Closed, a step says what it did; open, it shows its few choices. */
import { type ComponentType, useState } from "react";
import { QUESTIONS } from "../../api/declared";
import type { StepOutcome } from "../../api/schema";
import { GuideLink } from "../../app/guide";
import { Pick } from "../../ui/Choice";
import { Rich } from "../../ui/Rich";
import { StateDot } from "../../ui/StateDot";
import { useOpenRun } from "../state/open";

export function StepList() {
  const { view, room, act } = useOpenRun();
  const [open, setOpen] = useState<string | null>(room.first);
  return (
    <>
      <div className="mb-2 flex flex-wrap items-baseline gap-x-2">
        <h2 className="text-lg">Working</h2>
        <Pick
          label="The question of this run"
          quiet
          value={view.revision.method.question ?? "concentration"}
          options={QUESTIONS.map(({ id, by }) => ({ value: id, text: by }))}
          onChange={(question) =>
            act({ kind: "change", changes: [{ kind: "set_question", question }], words: "Another question" })
          }
        />
      </div>
      <ol>
        {view.revision.outcome.steps.map((step, i) => (
          <StepItem
            key={step.kind}
            step={step}
            Panel={room.panels[step.kind]}
            number={i + 1}
            open={open === step.kind}
            onToggle={() => setOpen(open === step.kind ? null : step.kind)}
          />
        ))}
      </ol>
    </>
  );
}

interface Props {
  step: StepOutcome;
  Panel: ComponentType | undefined;
  number: number;
  open: boolean;
  onToggle: () => void;
}

function StepItem({ step, Panel, number, open, onToggle }: Props) {
  return (
    <li className="relative pb-4 pl-8 before:absolute before:top-2 before:bottom-[-8px] before:left-[9px] before:w-px before:bg-rule last:before:hidden">
      <span
        aria-hidden
        className={`absolute top-0.5 left-0 grid size-[19px] place-items-center rounded-full border text-xs font-bold ${open ? "border-ink bg-ink text-chalk" : "border-graphite/50 bg-chalk"}`}
      >
        {number}
      </span>
      <button type="button" aria-expanded={open} onClick={onToggle} className="block w-full text-left">
        <span className="flex items-center justify-between">
          <h3 className="font-sans text-[15px]">{step.title}</h3>
          <StateDot state={step.state} />
        </span>
        <span className="mt-0.5 block text-graphite">
          <Rich text={step.sentence} />
        </span>
      </button>
      {open && (
        <span className="absolute top-[5px] right-5">
          <GuideLink to={`step-${step.kind}`} about={step.title} />
        </span>
      )}
      {open && Panel && (
        <div className="mt-2">
          <Panel />
        </div>
      )}
    </li>
  );
}
