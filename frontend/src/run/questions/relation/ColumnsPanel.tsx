/* What x and y are: as they came, or computed by an expression; with the names and units the axes carry. */
import { useOpenRun } from "../../state/open";
import { DraftField, Row, useStep } from "../../working/fields";

export function ColumnsPanel() {
  const { view } = useOpenRun();
  const { step, set } = useStep("columns");
  const channels = (view.readings.channels ?? []).map((each) => each.name);
  return (
    <div className="flex flex-col gap-1">
      {(["x", "y"] as const).map((axis) => (
        <div key={axis}>
          <Row label={`${axis} =`}>
            <DraftField
              key={step[axis]}
              label={`Expression of ${axis}`}
              given={step[axis] ?? ""}
              read={(text) => text.trim()}
              need=""
              onCommit={(text) =>
                text !== (step[axis] ?? "") &&
                set({ [axis]: text }, `Columns: ${axis} = ${text || "as it came"}`)
              }
              className="w-[180px] font-serif italic"
            />
          </Row>
          <Row label="called">
            <DraftField
              key={`name ${step[`${axis}_name`]}`}
              label={`Name of ${axis}`}
              given={step[`${axis}_name`] ?? ""}
              read={(text) => text.trim()}
              need=""
              onCommit={(text) =>
                text !== (step[`${axis}_name`] ?? "") &&
                set({ [`${axis}_name`]: text }, `Columns: ${axis} called ${text}`)
              }
              className="w-[120px]"
            />
            in
            <DraftField
              key={`unit ${step[`${axis}_unit`]}`}
              label={`Unit of ${axis}`}
              given={step[`${axis}_unit`] ?? ""}
              read={(text) => text.trim()}
              need=""
              onCommit={(text) =>
                text !== (step[`${axis}_unit`] ?? "") &&
                set({ [`${axis}_unit`]: text }, `Columns: unit of ${axis} ${text}`)
              }
              className="w-[70px]"
            />
          </Row>
        </div>
      ))}
      <p className="text-sm text-graphite">
        Empty: as it came. Expressions may use x, y
        {channels.length > 0 &&
          `, ${channels.map((name) => (/\W/.test(name) ? `{${name}}` : name)).join(", ")}`}
        , such as 1/(x + 273.15) or −log10(y/100).
      </p>
    </div>
  );
}
