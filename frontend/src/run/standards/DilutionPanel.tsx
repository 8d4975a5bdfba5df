/* Whether samples are multiplied by their dilution. */
import { Pick } from "../../ui/Choice";
import { ON_OFF, Row, useStep } from "../working/fields";

export function DilutionPanel() {
  const { step, set } = useStep("dilution");
  return (
    <Row label="This step is">
      <Pick
        label="Dilution step"
        value={step.on ? "on" : "off"}
        options={ON_OFF}
        onChange={(on) => set({ on: on === "on" }, `Dilution: ${on}`)}
      />
    </Row>
  );
}
