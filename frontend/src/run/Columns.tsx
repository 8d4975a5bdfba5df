/* The three columns of the Work view: readings, working, and the curve over its answers. */
import { Button } from "../ui/Button";
import { Segments } from "../ui/Choice";
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
  const widths =
    shape === "list"
      ? "grid-cols-[minmax(316px,25.5%)_minmax(266px,22.5%)_1fr]"
      : wide
        ? "grid-cols-1"
        : "grid-cols-[minmax(404px,31.5%)_minmax(262px,21%)_1fr]";
  return (
    <div hidden={tab !== "work"} className={`${tab === "work" ? "grid" : "hidden"} min-h-0 flex-1 ${widths}`}>
      <section aria-label="Readings" className="flex min-h-0 flex-col border-r border-rule">
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
        aria-label="Working"
        hidden={alone}
        className="min-h-0 overflow-y-auto border-r border-rule p-3"
      >
        <StepList />
      </section>
      <div className={`min-h-0 min-w-0 flex-col ${alone ? "hidden" : "flex"}`}>
        <section aria-label="Curve" className="flex min-h-[250px] flex-[1.25] flex-col bg-chalk p-3">
          {/* What nobody sees behind the wall need not be drawn again with it. */}
          {tab !== "wall" && <LiveFigure />}
        </section>
        <section aria-label="Answers" className="flex min-h-[180px] flex-1 flex-col border-t border-rule p-3">
          {tab !== "wall" && <AnswersTable />}
        </section>
      </div>
    </div>
  );
}
