/* The curve of rates drawn so that it is straight, as it is taught, with a sentence why the numbers are the curve's. */
import { extent } from "d3-array";
import { scaleLinear } from "d3-scale";
import { useRef, useState } from "react";
import type { Straightened } from "../../../api/schema";
import { XAxis, YAxis } from "../../../plot/Axis";
import { polyline } from "../../../plot/path";
import { linearX } from "../../../plot/scales";
import { useSize } from "../../../plot/useSize";
import { Pick } from "../../../ui/Choice";
import { LEFT, RIGHT, TOP } from "../../figure/plot";
import { useSelection } from "../../state/selection";
import { marksOf } from "./marks";

const BELOW = 44;

interface Props {
  plots: readonly Straightened[];
  heading: React.ReactNode;
}

export function StraightenedFigure({ plots, heading }: Props) {
  const [id, setId] = useState(plots[0]!.id);
  const frame = useRef<HTMLDivElement>(null);
  const size = useSize(frame);
  const plot = plots.find((each) => each.id === id) ?? plots[0]!;
  return (
    <>
      <div className="mb-1 flex flex-wrap items-center gap-x-3.5 gap-y-1">
        {heading}
        <Pick
          label="Straightened as"
          value={plot.id}
          options={plots.map((each) => ({ value: each.id, text: each.name }))}
          onChange={setId}
        />
      </div>
      <p className="mb-1 text-md text-graphite">{plot.why}</p>
      <div ref={frame} className="relative min-h-0 flex-1">
        {size.width > 0 && <Drawing plot={plot} width={size.width} height={size.height} />}
      </div>
    </>
  );
}

function Drawing({ plot, width, height }: { plot: Straightened; width: number; height: number }) {
  const { selection, select } = useSelection();
  const bottom = height - BELOW;
  const ends = (values: readonly number[]): [number, number] => {
    const [low = 0, high = 1] = extent(values);
    const pad = 0.04 * (high - low || 1);
    return [low - pad, high + pad];
  };
  const x = linearX(ends(plot.points.map((p) => p.x)), [LEFT, width - RIGHT]);
  const y = scaleLinear(ends([...plot.points.map((p) => p.y), ...plot.line.y]), [bottom, TOP]);
  const seen = plot.line.x.flatMap((at, i) => (x(at) >= LEFT && x(at) <= width - RIGHT ? [i] : []));
  return (
    <svg width={width} height={height} role="img" aria-label={`${plot.y_label} against ${plot.x_label}`}>
      <YAxis
        scale={y}
        at={LEFT}
        reach={width - LEFT - RIGHT}
        count={Math.max(3, Math.floor(bottom / 55))}
        label={plot.y_label}
      />
      <XAxis scale={x} at={bottom} reach={bottom - TOP} count={8} label={plot.x_label} />
      <path
        d={polyline(
          seen.map((i) => x(plot.line.x[i]!)),
          seen.map((i) => y(plot.line.y[i]!)),
        )}
        fill="none"
        stroke="var(--color-cupric)"
        strokeWidth={2}
      />
      {plot.points.map((point) => (
        // biome-ignore lint/a11y/noStaticElementInteractions: the same course is reached by key in the list
        <path
          key={point.reading}
          d={marksOf(
            0,
            [{ x: 0, y: 0 }],
            () => x(point.x),
            () => y(point.y),
            selection?.group === point.group ? 5 : 3.6,
          )}
          fill="var(--color-cupric)"
          className="cursor-pointer"
          onClick={() => select({ group: point.group, reading: point.reading })}
        />
      ))}
    </svg>
  );
}
