/* The potency of the reference and its unit, by which the others have theirs. */
import { DraftField, OptionalNumber, Row, useStep } from "../working/fields";

export function DeclaredRow({ kind }: { kind: "potency" | "compare_lethal" }) {
  const { step, set } = useStep(kind);
  return (
    <Row label="Reference declared">
      <OptionalNumber
        key={`declared ${step.declared}`}
        label="Declared potency of the reference"
        value={step.declared ?? null}
        fits={(value) => value > 0}
        need="Type a potency above zero, or nothing."
        onCommit={(declared) => set({ declared }, `Declared potency: ${declared ?? "none"}`)}
      />
      <DraftField
        key={`unit ${step.unit}`}
        label="Unit of potency"
        given={step.unit ?? ""}
        read={(text) => (text.trim().length <= 40 ? text.trim() : null)}
        need="A unit of up to 40 characters, such as IU/mg."
        onCommit={(unit) => unit !== (step.unit ?? "") && set({ unit }, `Unit of potency: ${unit}`)}
        className="w-[74px]"
      />
    </Row>
  );
}
