/* By which test doses are held against the control, and at which risk. */
import { NumberField, PickRow, Row, useStep } from "../working/fields";

const OFF = { value: "off", text: "not tested" } as const;
const TESTS = {
  no_effect: [
    OFF,
    { value: "dunnett", text: "Dunnett’s test" },
    { value: "williams", text: "Williams’s test, means that rise or fall" },
    { value: "jonckheere", text: "Jonckheere–Terpstra, ranks" },
  ],
  no_effect_counts: [
    OFF,
    { value: "fisher", text: "Fisher’s exact test, Holm" },
    { value: "cochran_armitage", text: "Cochran–Armitage trend" },
  ],
} as const;

export function NoEffectPanel({ kind }: { kind: "no_effect" | "no_effect_counts" }) {
  const { step, set } = useStep(kind);
  return (
    <>
      <PickRow
        says="NOEC and LOEC are"
        label="Test against the control"
        value={step.test ?? "off"}
        options={TESTS[kind]}
        onChange={(test) => set({ test } as Partial<typeof step>, `No effect: ${test}`)}
      />
      <Row label="One-sided risk">
        <NumberField
          key={step.alpha}
          label="Risk in percent"
          value={+(100 * (step.alpha ?? 0.05)).toPrecision(4)}
          fits={(value) => value > 0 && value < 50}
          need="Type a percentage between 0 and 50, such as 5."
          onCommit={(value) => set({ alpha: value / 100 }, `No effect: risk ${value} %`)}
        />
        %
      </Row>
    </>
  );
}
