/* The choices of a dose–response curve: those of all series, or of one that is an exception. */

import { useCurves } from "../../state/curves";
import { Fitted } from "../../working/Fitted";
import { PickRow, ROBUST, useStep } from "../../working/fields";
import { ModelPicker } from "../../working/ModelPicker";

export const SHAPES = ["sigmoid", "threshold", "peaked"];

type Step = ReturnType<typeof useStep<"dose_curve">>["step"];

/** The setting without held values, which are in the unit of the responses that were fitted. */
export function nothingHeld(step: Step): Partial<Step> {
  const own = Object.entries(step.own ?? {}).map(([name, setting]) => [name, { ...setting, fixed: {} }]);
  return { fixed: {}, own: Object.fromEntries(own) };
}

/** The setting in force for the series looked at, and how some of it is changed: for it alone, or for all. */
function useSetting() {
  const { curve } = useCurves();
  const { step, set } = useStep("dose_curve");
  const key = curve.key ?? "";
  const { kind: _, of, share = [], own = {}, ...all } = step;
  const alone = own[key];
  const setting = alone ?? all;
  const names = curve.parameters.map((row) => row.name);
  return {
    step,
    of: of ?? "normalized",
    share,
    names,
    setting,
    alone: alone !== undefined,
    change: (change: Partial<typeof setting>, words: string) =>
      alone
        ? set({ own: { ...own, [key]: { ...setting, ...change } } }, `Curve of ${key}: ${words}`)
        : set(
            {
              ...change,
              // What is held, or belongs to another model, cannot be shared.
              share: change.model ? [] : share.filter((name) => !(name in (change.fixed ?? {}))),
            },
            `Curve: ${words}`,
          ),
    changeAll: set,
    setAlone: (on: boolean) => {
      const { [key]: _own, ...others } = own;
      return on
        ? set({ own: { ...own, [key]: all } }, `Curve of ${key}: a setting of its own`)
        : set({ own: others }, `Curve of ${key}: same as the others`);
    },
  };
}

export function DoseCurvePanel() {
  const { curve, curves } = useCurves();
  const { step, of, share, names, setting, alone, change, changeAll, setAlone } = useSetting();
  return (
    <div className="flex flex-col gap-2">
      {curves.length > 1 && (
        <PickRow
          says="This setting is"
          label="This setting applies to"
          value={alone ? "alone" : "all"}
          options={[
            { value: "all", text: "of all series" },
            { value: "alone", text: `of ${curve.key} alone` },
          ]}
          onChange={(value) => setAlone(value === "alone")}
        />
      )}
      <ModelPicker
        chosen={setting.model ?? "logistic4"}
        few={["logistic4", "logistic5", "logistic3", "hormesis", "bell"]}
        shapes={SHAPES}
        onChoose={(model) => change({ model: model.id, fixed: {} }, model.name)}
      />
      <div>
        <PickRow
          says="The curve goes through"
          label="Fitted responses are"
          value={of}
          options={[
            { value: "normalized", text: "normalized responses" },
            { value: "raw", text: "responses as read" },
          ]}
          onChange={(next) => changeAll({ ...nothingHeld(step), of: next }, `Curve: of ${next} responses`)}
        />
        <PickRow
          says="Each is weighted by"
          label="Weights"
          value={setting.weights ?? "none"}
          options={[
            { value: "none", text: "nothing: all alike" },
            { value: "1/y", text: "1/y" },
            { value: "1/y^2", text: "1/y²" },
            { value: "1/yhat^2", text: "1/ŷ²" },
          ]}
          onChange={(weights) => change({ weights }, `weights ${weights}`)}
        />
        <PickRow
          says="Outlying readings are"
          label="Robust"
          value={setting.robust ?? "off"}
          options={ROBUST}
          onChange={(robust) => change({ robust }, `robust ${robust}`)}
        />
        {curves.length > 1 && !alone && (
          <fieldset className="flex flex-wrap items-center gap-x-3 py-0.5">
            <legend className="float-left mr-2 min-w-[62px] text-graphite">Shared by all</legend>
            {names.map((name) => (
              <label key={name} className="flex items-center gap-1">
                <input
                  type="checkbox"
                  checked={share.includes(name)}
                  disabled={name in (setting.fixed ?? {})}
                  onChange={(event) =>
                    changeAll(
                      {
                        share: event.target.checked
                          ? [...share, name]
                          : share.filter((each) => each !== name),
                      },
                      `Curve: ${name} ${event.target.checked ? "shared" : "of each series"}`,
                    )
                  }
                />
                {name}
              </label>
            ))}
          </fieldset>
        )}
      </div>
      {(curve.with_numbers || curve.brief) && (
        <Fitted
          curve={curve}
          fixed={setting.fixed ?? {}}
          onFix={(fixed, words) => change({ fixed }, words)}
        />
      )}
    </div>
  );
}
