/* The choices of the plain steps: blank, replicates, additions, limits, dilution, checks. */
import { Button } from "../../ui/Button";
import { Pick } from "../../ui/Choice";
import { StateDot } from "../../ui/StateDot";
import { stepOf, useWorkspace } from "../workspace";
import { INTERVALS, NumberField, ON_OFF, Row, useStep } from "./fields";

const SCOPES = [
  { value: "each", text: "of each plate that has some, else of the run" },
  { value: "run", text: "of the whole run" },
  { value: "plate", text: "of each plate" },
  { value: "row", text: "of each row" },
  { value: "column", text: "of each column" },
  { value: "columns", text: "of each column group" },
  { value: "series", text: "of each series" },
  { value: "own", text: "of each sample's own name" },
  { value: "reference", text: "a reference reading" },
  { value: "typed", text: "typed" },
] as const;

const CENTRES = [
  { value: "mean", text: "mean" },
  { value: "median", text: "median" },
] as const;

export function BlankPanel() {
  const { view } = useWorkspace();
  const { step, set } = useStep("blank");
  return (
    <>
      <Row label="Taken off is the">
        <Pick
          label="Statistic of the blanks"
          value={step.statistic ?? "mean"}
          options={CENTRES}
          onChange={(statistic) => set({ statistic }, `Blank: ${statistic}`)}
        />
      </Row>
      <Row label="of the blanks">
        <Pick
          label="Which blanks are taken off"
          value={step.scope ?? "each"}
          options={SCOPES}
          onChange={(scope) => set({ scope }, `Blank: ${scope}`)}
        />
        {step.scope === "columns" && (
          <>
            <NumberField
              label="Columns of a group"
              value={step.width ?? 3}
              fits={(width) => width >= 1 && width <= 48}
              need="Type how many columns, from 1 to 48."
              onCommit={(width) => set({ width: Math.round(width) }, `Blank: groups of ${width} columns`)}
            />
            columns
          </>
        )}
        {step.scope === "typed" && (
          <NumberField
            label="Blank to take off"
            value={step.typed ?? null}
            onCommit={(value) => set({ typed: value }, `Blank: ${value}`)}
          />
        )}
      </Row>
      {step.scope === "reference" && (
        <Row label="The reference is">
          <Pick
            label="Reference to take off"
            value={step.reference || "none chosen"}
            options={(view.revision.outcome.columns ?? [])
              .filter((column) => !column.derived)
              .map((column) => ({ value: column.name, text: column.name }))}
            onChange={(reference) => set({ reference }, `Blank: reference ${reference}`)}
          />
        </Row>
      )}
      <Row label="This step is">
        <Pick
          label="Blank step"
          value={step.on ? "on" : "off"}
          options={ON_OFF}
          onChange={(on) => set({ on: on === "on" }, `Blank: ${on}`)}
        />
      </Row>
    </>
  );
}

/** Readings that a test points at among their replicates; each is excluded, for that reason, by one click. */
function Suspects() {
  const { view, readings, excluded, act } = useWorkspace();
  const { groups } = view.revision.layout;
  const found = view.revision.outcome.readings.filter((each) => each.suspect && !excluded.has(each.id));
  if (found.length === 0) return null;
  return (
    <ul aria-label="Outlying readings" className="mt-1 border-t border-rule">
      {found.slice(0, 8).map((each) => {
        const group = groups.find((one) => one.readings.includes(each.id))!;
        const name = `${group.name} reading ${group.readings.indexOf(each.id) + 1}`;
        return (
          <li key={each.id} className="border-b border-rule/70 py-1 text-md">
            <b>{name}</b> ({readings.get(each.id)?.text}) {each.suspect}.{" "}
            <Button
              look="text"
              className="text-sm"
              onClick={() =>
                act({
                  kind: "change",
                  changes: [{ kind: "exclude", readings: [each.id], reason: each.suspect! }],
                  words: `Exclude ${name}: ${each.suspect}`,
                })
              }
            >
              Exclude for that
            </Button>
          </li>
        );
      })}
      {found.length > 8 && <li className="py-1 text-sm text-graphite">and {found.length - 8} more</li>}
    </ul>
  );
}

export function ReplicatesPanel() {
  const { view, act } = useWorkspace();
  const step = stepOf(view, "replicates");
  return (
    <>
      <Row label="Replicates are combined by their">
        <Pick
          label="Combine replicates by"
          value={step.combine ?? "mean"}
          options={[
            ...CENTRES,
            { value: "geometric", text: "geometric mean" },
            { value: "each", text: "no mean: each on its own" },
          ]}
          onChange={(combine) =>
            act({
              kind: "change",
              changes: [{ kind: "set_step", step: { ...step, combine } }],
              words: `Replicates: ${combine}`,
            })
          }
        />
      </Row>
      <Row label="They disagree from a CV of">
        <NumberField
          key={step.cv_limit}
          label="CV from which replicates disagree, in percent"
          value={+(100 * (step.cv_limit ?? 0.1)).toPrecision(4)}
          fits={(value) => value > 0 && value <= 1000}
          need="Type a percentage above 0, such as 10."
          onCommit={(value) =>
            act({
              kind: "change",
              changes: [{ kind: "set_step", step: { ...step, cv_limit: value / 100 } }],
              words: `Replicates: CV up to ${value} %`,
            })
          }
        />
        %
      </Row>
      <Suspects />
    </>
  );
}

export function AdditionsPanel() {
  const { view, act } = useWorkspace();
  const step = stepOf(view, "additions");
  return (
    <Row label="The interval holds">
      <Pick
        label="Level of the interval"
        value={String(step.level ?? 0.95) as "0.95"}
        options={INTERVALS}
        onChange={(level) =>
          act({
            kind: "change",
            changes: [{ kind: "set_step", step: { ...step, level: Number(level) } }],
            words: `Interval: ${level}`,
          })
        }
      />
    </Row>
  );
}

const CVS = [
  { value: "0.1", text: "10 %" },
  { value: "0.15", text: "15 %" },
  { value: "0.2", text: "20 %" },
  { value: "0.25", text: "25 %" },
] as const;

export function LimitsPanel() {
  const { curve, showNumber } = useWorkspace();
  const { step, set } = useStep("limits");
  return (
    <>
      <Row label="Quantifiable is a read-back CV within">
        <Pick
          label="Read-back CV within"
          value={String(step.cv ?? 0.2) as "0.2"}
          options={CVS}
          onChange={(cv) => set({ cv: Number(cv) }, `Limits: CV ${cv}`)}
        />
      </Row>
      <Row label="This step is">
        <Pick
          label="Limits step"
          value={step.on ? "on" : "off"}
          options={ON_OFF}
          onChange={(on) => set({ on: on === "on" }, `Limits: ${on}`)}
        />
      </Row>
      <dl className="mt-1 grid grid-cols-[72px_1fr] border-t border-rule pt-1 text-md">
        {(curve.limits ?? []).map(({ name, shown, working }) => (
          <div key={name} className="contents">
            <dt className="text-graphite">{name}</dt>
            <dd>
              <button
                type="button"
                title="Show working"
                className="hover:text-permanganate"
                onClick={() => showNumber({ id: working!, title: name })}
              >
                {shown}
              </button>
            </dd>
          </div>
        ))}
      </dl>
    </>
  );
}

export function DilutionPanel() {
  const { view, act } = useWorkspace();
  const step = stepOf(view, "dilution");
  return (
    <Row label="This step is">
      <Pick
        label="Dilution step"
        value={step.on ? "on" : "off"}
        options={ON_OFF}
        onChange={(on) =>
          act({
            kind: "change",
            changes: [{ kind: "set_step", step: { ...step, on: on === "on" } }],
            words: `Dilution: ${on}`,
          })
        }
      />
    </Row>
  );
}

const THRESHOLDS = [
  { key: "standard_recovery", text: "Standards within" },
  { key: "lowest_recovery", text: "The lowest within" },
  { key: "qc_recovery", text: "QC within" },
  { key: "spike_recovery", text: "Additions within" },
] as const;

/** What each check found, and what to do about it. */
export function CheckList() {
  const { view, showNumber } = useWorkspace();
  return (
    <ul>
      {view.revision.outcome.checks.map((check) => (
        <li key={check.id} className="border-b border-rule py-1.5 text-md last:border-0">
          <div className="flex items-center justify-between gap-2">
            <b>{check.title}</b>
            <StateDot state={check.state} />
          </div>
          <div>{check.found}</div>
          <div className="text-sm text-graphite">
            Threshold {check.threshold}.{check.state !== "pass" && ` ${check.why}`}{" "}
            {check.working && (
              <Button
                look="text"
                className="text-sm"
                aria-label={`Working of ${check.title}`}
                onClick={() => showNumber({ id: check.working!, title: check.title })}
              >
                Show working
              </Button>
            )}
          </div>
        </li>
      ))}
    </ul>
  );
}

export function ChecksPanel() {
  const { view, act } = useWorkspace();
  const step = stepOf(view, "checks");
  return (
    <>
      <div className="mb-2 flex flex-col">
        {THRESHOLDS.map(({ key, text }) => (
          <Row key={key} label={text}>
            <NumberField
              key={step[key]}
              label={`${text} in percent`}
              value={+(100 * (step[key] ?? 0.1)).toPrecision(4)}
              fits={(value) => value > 0 && value <= 1000}
              need="Type a percentage above 0, such as 15."
              onCommit={(value) =>
                act({
                  kind: "change",
                  changes: [{ kind: "set_step", step: { ...step, [key]: value / 100 } }],
                  words: `Checks: ${text} ${value} %`,
                })
              }
            />
            %
          </Row>
        ))}
      </div>
      <CheckList />
    </>
  );
}
