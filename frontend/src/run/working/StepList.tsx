/* The working: numbered steps on a line. Closed, a step says what it did; open, it shows its few choices. */
import { useState } from "react";
import type { StepOutcome } from "../../api/schema";
import { Rich } from "../../ui/Rich";
import { StateDot } from "../../ui/StateDot";
import { CompareLethalPanel, ComparePanel } from "../doses/ComparePanel";
import { DoseCurvePanel } from "../doses/DoseCurvePanel";
import { CountsPanel, LethalPanel, MortalityChecksPanel, QuantalPanel } from "../doses/mortality";
import { NormalizePanel } from "../doses/NormalizePanel";
import { DoseChecksPanel, EffectsPanel } from "../doses/panels";
import { useWorkspace } from "../workspace";
import { CurvePanel } from "./CurvePanel";
import {
  AdditionsPanel,
  BlankPanel,
  ChecksPanel,
  DilutionPanel,
  LimitsPanel,
  ReplicatesPanel,
} from "./panels";
import { ReadBackPanel } from "./ReadBackPanel";
import { SignalPanel } from "./SignalPanel";

const PANELS: Record<string, () => React.ReactNode> = {
  signal: SignalPanel,
  blank: BlankPanel,
  replicates: ReplicatesPanel,
  curve: CurvePanel,
  limits: LimitsPanel,
  read_back: ReadBackPanel,
  additions: AdditionsPanel,
  dilution: DilutionPanel,
  checks: ChecksPanel,
  normalize: NormalizePanel,
  dose_curve: DoseCurvePanel,
  effects: EffectsPanel,
  compare: ComparePanel,
  dose_checks: DoseChecksPanel,
  counts: CountsPanel,
  quantal: QuantalPanel,
  lethal: LethalPanel,
  compare_lethal: CompareLethalPanel,
  mortality_checks: MortalityChecksPanel,
};

/** The step that is open when a run is opened. */
const FIRST: Record<string, string> = { dose: "normalize", mortality: "quantal" };

export function StepList() {
  const { view } = useWorkspace();
  const [open, setOpen] = useState<string | null>(FIRST[view.revision.method.question ?? ""] ?? "curve");
  return (
    <>
      <h2 className="mb-2 text-lg">Working</h2>
      <ol>
        {view.revision.outcome.steps.map((step, i) => (
          <StepItem
            key={step.kind}
            step={step}
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
  number: number;
  open: boolean;
  onToggle: () => void;
}

function StepItem({ step, number, open, onToggle }: Props) {
  const Panel = PANELS[step.kind]!;
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
        <div className="mt-2">
          <Panel />
        </div>
      )}
    </li>
  );
}
