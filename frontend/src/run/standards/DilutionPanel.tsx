/* Whether samples are multiplied by their dilution. */
import { ON_OFF, PickRow, useStep } from "../working/fields";

export function DilutionPanel() {
  const { step, set } = useStep("dilution");
  return (
    <PickRow
      says="This step is"
      label="Dilution step"
      value={step.on ? "on" : "off"}
      options={ON_OFF}
      onChange={(on) => set({ on: on === "on" }, `Dilution: ${on}`)}
    />
  );
}
