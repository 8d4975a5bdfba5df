/* The range in which answers are trusted, shaded, with its words where the curve is not. */
import type { Curve } from "../../api/schema";
import type { Span } from "../questions/room";
import { LEFT, type Plot, RIGHT, TOP } from "./plot";

interface Props {
  curve: Curve;
  span: Span;
  unit: string;
  plot: Plot;
}

const NARROW = 520; // px of the figure

export function TrustedRange({ curve, span, unit, plot: { x, bottom, width } }: Props) {
  const narrow = width < NARROW;
  const falls = (curve.line.y[0] ?? 0) > (curve.line.y.at(-1) ?? 0);
  return (
    <>
      <rect
        x={x(span.lower)}
        y={TOP}
        width={Math.max(x(span.upper) - x(span.lower), 0)}
        height={Math.max(bottom - TOP, 0)}
        fill="var(--color-malachite-tint)"
        fillOpacity={0.5}
        clipPath="url(#inside-plot)"
      />
      <text
        x={falls ? Math.min(x(span.upper), width - RIGHT) - 14 : Math.max(x(span.lower), LEFT) + 14}
        y={27}
        textAnchor={falls ? "end" : "start"}
        fontSize={12}
        fill="var(--color-malachite)"
      >
        {curve.working && `quantifiable ${curve.shown_working}`}
        {/* Where there is little room, the part that matters. */}
        {!(curve.working && narrow) && `${curve.working ? " · " : ""}standards ${curve.shown_range}`} {unit}
      </text>
    </>
  );
}
