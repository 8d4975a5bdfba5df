/* The three columns of the Work view: readings, working, and the curve over its answers. */
import { Button } from "../ui/Button";
import { Segments } from "../ui/Choice";
import { Splitter, useKeptWidth } from "../ui/Splitter";
import { AnswersTable } from "./answers/AnswersTable";
import { LiveFigure } from "./figure/LiveFigure";
import { PlatePanel } from "./plate/PlatePanel";
import type { Tab } from "./RunBar";
import { IntakeLink } from "./readings/IntakeLink";
import { ReadingsList } from "./readings/ReadingsList";
import { ShowWorking } from "./readings/ShowWorking";
import { StepList } from "./working/StepList";

export type Shape = "plate" | "list";
const SHAPES = [
  { value: "plate", text: "Plate" },
  { value: "list", text: "List" },
] as const;

interface Props {
  tab: Tab;
  /** Whether the readings stand on a plate, and whether they are shown so or as a list. */
  plated: boolean;
  shape: Shape;
  onShape: (shape: Shape) => void;
  /** Whether the plate has the whole page, to be laid out. */
  wide: boolean;
  onWide: (wide: boolean) => void;
}

export function Columns({ tab, plated, shape, onShape, wide, onWide }: Props) {
  const alone = wide && shape === "plate";
  const list = shape === "list";
  const [first, setFirst] = useKeptWidth(list ? "readings" : "plate");
  const [second, setSecond] = useKeptWidth("working");
  const left = first === null ? (list ? "minmax(250px,25.5%)" : "minmax(330px,31.5%)") : `${first}px`;
  const middle = second === null ? "minmax(236px,22%)" : `${second}px`;
  const whole = wide && !list;
  return (
    <div
      hidden={tab !== "work"}
      style={{ gridTemplateColumns: whole ? "minmax(0,1fr)" : `${left} ${middle} minmax(0,1fr)` }}
      className={`${tab === "work" ? "grid" : "hidden"} min-h-0 flex-1`}
    >
      <section
        id="readings"
        tabIndex={-1}
        aria-label="Readings"
        className="relative flex min-h-0 flex-col border-r border-rule"
      >
        {!whole && <Splitter label="Width of the readings" least={220} most={700} onWidth={setFirst} />}
        {plated && (
          <div className={`flex items-center gap-3 pb-2 ${alone ? "p-4" : "p-3"}`}>
            <h2 className="text-lg">Readings</h2>
            <Segments label="Readings as" value={shape} options={SHAPES} onChange={onShape} />
            <IntakeLink />
            <span className="flex-1" />
            {shape === "plate" && (
              <Button
                look={wide ? "plain" : "text"}
                className={wide ? "" : "text-sm"}
                onClick={() => onWide(!wide)}
              >
                {wide ? "Show the curve" : "Lay out…"}
              </Button>
            )}
          </div>
        )}
        {shape === "plate" ? (
          <PlatePanel wide={wide}>
            <ShowWorking bare />
          </PlatePanel>
        ) : (
          <>
            <ReadingsList titled={!plated} />
            <ShowWorking />
          </>
        )}
      </section>
      <section
        id="working"
        tabIndex={-1}
        aria-label="Working"
        hidden={alone}
        className="relative min-h-0 border-r border-rule"
      >
        <Splitter label="Width of the working" least={220} most={600} onWidth={setSecond} />
        <div className="h-full overflow-y-auto p-3">
          <StepList />
        </div>
      </section>
      <div className={`min-h-0 min-w-0 flex-col ${alone ? "hidden" : "flex"}`}>
        <section aria-label="Curve" className="flex min-h-[250px] flex-[1.25] flex-col bg-chalk p-3">
          {/* What nobody sees behind the wall need not be drawn again with it. */}
          {tab !== "wall" && <LiveFigure />}
        </section>
        <section
          id="answers"
          tabIndex={-1}
          aria-label="Answers"
          className="flex min-h-[180px] flex-1 flex-col border-t border-rule p-3"
        >
          {tab !== "wall" && <AnswersTable />}
        </section>
      </div>
    </div>
  );
}
