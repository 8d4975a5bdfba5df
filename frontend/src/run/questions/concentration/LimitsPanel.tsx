/* The choices of the limits, and what they are. */
import { useCurves } from "../../state/curves";
import { useSelection } from "../../state/selection";
import { ON_OFF, PickRow, useStep } from "../../working/fields";

const CVS = [
  { value: "0.1", text: "10 %" },
  { value: "0.15", text: "15 %" },
  { value: "0.2", text: "20 %" },
  { value: "0.25", text: "25 %" },
] as const;

export function LimitsPanel() {
  const { curve } = useCurves();
  const { showNumber } = useSelection();
  const { step, set } = useStep("limits");
  return (
    <>
      <PickRow
        says="Quantifiable means a read-back CV within"
        label="Read-back CV within"
        value={String(step.cv ?? 0.2) as "0.2"}
        options={CVS}
        onChange={(cv) => set({ cv: Number(cv) }, `Limits: CV ${cv}`)}
      />
      <PickRow
        says="This step is"
        label="Limits step"
        value={step.on ? "on" : "off"}
        options={ON_OFF}
        onChange={(on) => set({ on: on === "on" }, `Limits: ${on}`)}
      />
      <dl className="mt-1 grid grid-cols-[auto_1fr] gap-x-3 border-t border-rule pt-1 text-md">
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
