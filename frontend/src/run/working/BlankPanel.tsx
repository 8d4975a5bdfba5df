/* The choices of the blank: which, over what, or none. */
import { Pick } from "../../ui/Choice";
import { useOpenRun } from "../state/open";
import { CENTERS, NumberField, ON_OFF, PickRow, Row, useStep } from "./fields";

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

export function BlankPanel() {
  const { view } = useOpenRun();
  const { step, set } = useStep("blank");
  return (
    <>
      <PickRow
        says="Subtract the"
        label="Statistic of the blanks"
        value={step.statistic ?? "mean"}
        options={CENTERS}
        onChange={(statistic) => set({ statistic }, `Blank: ${statistic}`)}
      />
      <Row label="of the blanks">
        <Pick
          label="Which blanks are subtracted"
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
            label="Blank to subtract"
            value={step.typed ?? null}
            onCommit={(value) => set({ typed: value }, `Blank: ${value}`)}
          />
        )}
      </Row>
      {step.scope === "reference" && (
        <PickRow
          says="The reference is"
          label="Reference to subtract"
          value={step.reference || "none chosen"}
          options={(view.revision.outcome.columns ?? [])
            .filter((column) => !column.derived)
            .map((column) => ({ value: column.name, text: column.name }))}
          onChange={(reference) => set({ reference }, `Blank: reference ${reference}`)}
        />
      )}
      <PickRow
        says="This step is"
        label="Blank step"
        value={step.on ? "on" : "off"}
        options={ON_OFF}
        onChange={(on) => set({ on: on === "on" }, `Blank: ${on}`)}
      />
    </>
  );
}
