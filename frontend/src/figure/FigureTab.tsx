/* The Figure tab of a run: the figure at its true size, and all that can be changed of it. */
import { useEffect, useRef, useState } from "react";
import { Button } from "../ui/Button";
import { Pending } from "../ui/Message";
import "./faces.css";
import { Groups } from "./groups";
import { fieldOf, type Group } from "./look";
import { SaveAs } from "./SaveAs";
import { Sheet, sizeOf } from "./Sheet";
import { ShowsRow } from "./ShowsRow";
import { StyleMenu } from "./StyleMenu";
import { useFigure } from "./useFigure";

const ZOOMS = [0.5, 0.75, 1, 1.5, 2, 3, 4];
const RIM = 96; // pixels around the paper, with its rulers

export function FigureTab() {
  const figure = useFigure();
  const [open, setOpen] = useState<Group>("words");
  const [zoom, setZoom] = useState<number | null>(null);
  const desk = useRef<HTMLDivElement>(null);
  const panel = useRef<HTMLElement>(null);
  const [room, setRoom] = useState<[number, number]>([800, 600]);
  const [wanted, setWanted] = useState<{ field: string } | null>(null);
  useEffect(() => {
    const element = desk.current;
    if (!element) return;
    const watch = new ResizeObserver(() => setRoom([element.clientWidth, element.clientHeight]));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  useEffect(() => {
    // What was clicked in the figure is put forward in its group, once that is open.
    if (!wanted?.field) return;
    const field = panel.current?.querySelector<HTMLInputElement>(`[data-field="${wanted.field}"]`);
    field?.focus();
    field?.select();
  }, [wanted]);
  const { drawn, look } = figure;
  if (!drawn || !look) return <Pending failure={figure.error} onRetry={figure.refetch} />;
  const size = sizeOf(drawn);
  const px = 96 / 25.4;
  const fit = Math.min((room[0] - RIM) / (size[0] * px), (room[1] - RIM) / (size[1] * px), 2.5);
  const scale = zoom ?? Math.max(fit, 0.2);
  const step = (by: 1 | -1) => {
    const next =
      by > 0 ? ZOOMS.find((each) => each > scale + 0.01) : ZOOMS.findLast((each) => each < scale - 0.01);
    if (next) setZoom(next);
  };
  const goTo = (part: string) => {
    const found = fieldOf(part);
    if (!found) return;
    setWanted({ field: found.field });
    setOpen(found.group);
  };
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(380px,33%)]">
      <section aria-label="Figure" className="flex min-h-0 min-w-0 flex-col border-r border-rule bg-rule/40">
        <div ref={desk} className="flex min-h-0 flex-1 overflow-auto">
          <Sheet drawn={drawn} scale={scale} onPart={goTo} />
        </div>
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-rule bg-paper px-4 py-1.5 text-sm text-graphite">
          <span>Click anything in the figure to change it.</span>
          {drawn.remarks.map((remark) => (
            <span key={remark} role="status" className="text-iodine">
              {remark}
            </span>
          ))}
          <span className="flex-1" />
          <Button look="text" aria-label="Smaller" disabled={scale <= ZOOMS[0]!} onClick={() => step(-1)}>
            −
          </Button>
          <span>shown at {scale === 1 ? "true size" : `${scale.toFixed(1)} × true size`}</span>
          <Button look="text" aria-label="Larger" disabled={scale >= ZOOMS.at(-1)!} onClick={() => step(1)}>
            +
          </Button>
          <Button look="text" onClick={() => setZoom(zoom === null ? 1 : null)}>
            {zoom === null ? "True size" : "Fit"}
          </Button>
        </div>
      </section>
      <section
        ref={panel}
        aria-label="How the figure looks"
        className="flex min-h-0 flex-col gap-3 overflow-y-auto bg-chalk p-4"
      >
        <div className="flex items-baseline gap-3">
          <h2 className="text-lg">Figure</h2>
          <StyleMenu look={look} />
        </div>
        <ShowsRow look={look} drawn={drawn} keep={figure.keep} />
        <Groups
          look={look}
          drawn={drawn}
          size={size}
          attempt={figure.attempt}
          keep={figure.keep}
          open={open}
          onOpen={setOpen}
        />
        <span className="flex-1" />
        <SaveAs drawn={drawn} waiting={figure.isFetching} />
      </section>
    </div>
  );
}
