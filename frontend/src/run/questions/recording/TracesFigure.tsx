/* Channels under each other on one time: stretches, marks as flags, the pointer's reading; and the whole below. */
import { type KeyboardEvent, type PointerEvent, useEffect, useMemo, useRef, useState } from "react";
import { useScanLines } from "../../../api/hooks";
import { XAxis } from "../../../plot/Axis";
import { linearX } from "../../../plot/scales";
import { SERIES } from "../../figure/choices";
import { useOpenRun } from "../../state/open";
import { useSettled } from "../../state/useSettled";
import { Overview } from "./Overview";
import { type Drawn, Trace } from "./Trace";
import { useRecording } from "./useRecording";
import { moved, type Window, within, zoomed } from "./view";

const LEFT = 66;
const RIGHT = 14;
const BESIDE = 54; // px for the axis as recorded
const TOP = 24; // px above the traces, for the flags
const BELOW = 42;
const OVERVIEW = 34;
const GAP = 12;
const PAUSE_MS = 60; // after which the window has settled, and is fetched
const LEAST = 4; // px; a shorter drag is a click
const LETTER = 6; // px of a letter of a flag
const STEP = 0.01; // of the window that an arrow moves the pointer

interface Props {
  width: number;
  height: number;
  raw: boolean;
  window: Window | null;
  onWindow: (window: Window | null) => void;
  /** Whether a drag sets a stretch; it moves the window otherwise. */
  setting: boolean;
  onStretch: (start: number, stop: number) => void;
}

export function TracesFigure({ width, height, raw, window, onWindow, setting, onStretch }: Props) {
  const { view } = useOpenRun();
  const part = useRecording();
  const whole = useMemo<Window>(() => ({ from: part?.first ?? 0, to: part?.last ?? 1 }), [part]);
  const seen = window ?? whole;
  const settled = useSettled(seen, PAUSE_MS);
  const [cursor, setCursor] = useState<number | null>(null);
  const [begun, setBegun] = useState<number | null>(null);
  const [drag, setDrag] = useState<{ from: number; to: number; window: Window } | null>(null);
  const drawing = useRef<SVGSVGElement>(null);
  const stage = raw ? "raw" : "";
  const points = Math.max(200, Math.min(4000, Math.round(width * 2)));
  const fetched = useScanLines(view.run.id, view.revision.number, {
    points,
    ends: settled.from <= whole.from && settled.to >= whole.to ? null : [settled.from, settled.to],
    stage,
  });
  const all = useScanLines(view.run.id, view.revision.number, { points: 600, ends: null, stage });
  const channels = part?.channels ?? [];
  const beside = !raw && channels.some((each) => (each.c ?? []).length === 2) ? BESIDE : 0;
  const right = width - RIGHT - beside;
  const x = useMemo(() => linearX([seen.from, seen.to], [LEFT, right]), [seen, right]);
  const overall = useMemo(() => linearX([whole.from, whole.to], [LEFT, right]), [whole, right]);
  const floor = height - BELOW - OVERVIEW - GAP;
  const each = channels.length > 0 ? (floor - TOP - GAP * (channels.length - 1)) / channels.length : 0;
  const traces = channels.map<Drawn>((channel, i) => {
    const line = fetched.data?.courses?.find((one) => one.key === channel.key);
    return {
      key: channel.key,
      label: raw ? channel.raw_label : channel.label,
      rawLabel: channel.raw_label,
      color: SERIES[i % SERIES.length]!,
      c: raw ? [] : (channel.c ?? []),
      x: line?.x ?? [],
      y: line?.y ?? [],
      events: channel.events ?? [],
    };
  });
  const show = (next: Window) => onWindow(within(next, whole));
  const timeAt = (event: { clientX: number }) =>
    x.invert(event.clientX - drawing.current!.getBoundingClientRect().left);
  useEffect(() => {
    const element = drawing.current!;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const about = timeAt(event);
      if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY))
        show(moved(seen, ((event.deltaX || event.deltaY) / 800) * (seen.to - seen.from)));
      else show(zoomed(seen, event.deltaY < 0 ? 0.8 : 1.25, Math.min(Math.max(about, seen.from), seen.to)));
    };
    // React's own wheel listener is passive and could not keep the page from scrolling.
    element.addEventListener("wheel", onWheel, { passive: false });
    return () => element.removeEventListener("wheel", onWheel);
  });
  const byKey = (event: KeyboardEvent<SVGSVGElement>) => {
    const span = seen.to - seen.from;
    const now = cursor ?? (seen.from + seen.to) / 2;
    const by = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (by !== 0 && event.shiftKey) show(moved(seen, by * span * 0.1));
    else if (by !== 0) setCursor(Math.min(Math.max(now + by * STEP * span, seen.from), seen.to));
    else if (event.key === "+" || event.key === "=") show(zoomed(seen, 0.8, now));
    else if (event.key === "-") show(zoomed(seen, 1.25, now));
    else if (event.key === "Home") onWindow(null);
    else if (event.key === "Enter" && begun === null) setBegun(now);
    else if (event.key === "Enter" && begun !== null) {
      if (now !== begun) onStretch(Math.min(begun, now), Math.max(begun, now));
      setBegun(null);
    } else if (event.key === "Escape" && begun !== null) setBegun(null);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const down = (event: PointerEvent<SVGRectElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    const time = timeAt(event);
    setDrag({ from: time, to: time, window: seen });
  };
  const move = (event: PointerEvent<SVGRectElement>) => {
    const time = timeAt(event);
    setCursor(Math.min(Math.max(time, seen.from), seen.to));
    if (!drag) return;
    if (setting) setDrag({ ...drag, to: time });
    else show(moved(seen, drag.from - time));
  };
  const up = () => {
    if (!drag) return;
    setDrag(null);
    const [from, to] = [Math.min(drag.from, drag.to), Math.max(drag.from, drag.to)];
    if (setting && x(to) - x(from) >= LEAST) onStretch(Math.max(from, whole.from), Math.min(to, whole.to));
  };
  const marks = [...(part?.marks ?? [])].sort((a, b) => a.x - b.x);
  // A flag has its words where they end before the next one stands; at the right edge, left of it, where there is room.
  const worded = (i: number) => {
    const [at, room] = [x(marks[i]!.x), 14 + LETTER * marks[i]!.text.length];
    if (at + room > right) return i === 0 || x(marks[i - 1]!.x) + 14 < at - room;
    return i + 1 >= marks.length || at + room < x(marks[i + 1]!.x);
  };
  const fits = (stretch: { name: string; start: number; stop: number }) =>
    x(stretch.stop) - x(stretch.start) > LETTER * stretch.name.length;
  const making =
    setting && drag ? [drag.from, drag.to] : begun !== null && cursor !== null ? [begun, cursor] : null;
  const label = `${channels.length} channels against ${part?.x_label}; left and right read along them, plus and minus zoom, Shift and arrows move, Enter begins and ends a stretch, Home shows all`;
  return (
    <svg
      ref={drawing}
      width={width}
      height={height}
      role="group"
      tabIndex={0}
      aria-label={label}
      className="select-none outline-offset-[-2px]"
      onKeyDown={byKey}
      onPointerLeave={() => setCursor(null)}
    >
      <clipPath id="inside-traces">
        <rect x={LEFT} y={0} width={Math.max(right - LEFT, 0)} height={Math.max(floor, 0)} />
      </clipPath>
      <g clipPath="url(#inside-traces)" pointerEvents="none">
        {(part?.stretches ?? []).map((stretch) => (
          <g key={stretch.name} data-stretch={stretch.name}>
            <rect
              x={x(stretch.start)}
              y={TOP}
              width={Math.max(x(stretch.stop) - x(stretch.start), 1)}
              height={Math.max(floor - TOP, 0)}
              fill="var(--color-malachite)"
              fillOpacity={0.1}
            />
            {fits(stretch) && (
              <text
                x={(x(stretch.start) + x(stretch.stop)) / 2}
                y={floor - 5}
                textAnchor="middle"
                fontSize={11}
                fill="var(--color-malachite)"
                stroke="var(--color-chalk)"
                strokeWidth={3}
                paintOrder="stroke"
              >
                {stretch.name}
              </text>
            )}
          </g>
        ))}
        {making && (
          <rect
            data-making=""
            x={Math.min(x(making[0]!), x(making[1]!))}
            y={TOP}
            width={Math.abs(x(making[1]!) - x(making[0]!))}
            height={Math.max(floor - TOP, 0)}
            fill="var(--color-permanganate)"
            fillOpacity={0.16}
          />
        )}
      </g>
      {traces.map((trace, i) => (
        <Trace
          key={trace.key}
          trace={trace}
          x={x}
          top={TOP + i * (each + GAP)}
          bottom={TOP + i * (each + GAP) + each}
          left={LEFT}
          right={right}
          cursor={cursor}
          decimals={channels[i]!.decimals + 1}
          unit={raw ? (channels[i]!.raw_label.split(" / ")[1] ?? "") : channels[i]!.unit}
        />
      ))}
      <g clipPath="url(#inside-traces)" pointerEvents="none">
        {marks.map((mark, i) => (
          <g key={`${mark.x} ${mark.text}`} data-mark={mark.text} transform={`translate(${x(mark.x)},0)`}>
            <path
              d={`M0 4V${floor}`}
              stroke="var(--color-permanganate)"
              strokeDasharray="2 3"
              strokeOpacity={0.7}
            />
            <path d="M0 4h7l-2 4l2 4h-7z" fill="var(--color-permanganate)" />
            {worded(i) && (
              <text
                {...(x(mark.x) + 14 + LETTER * mark.text.length > right
                  ? { x: -5, textAnchor: "end" as const }
                  : { x: 11 })}
                y={13}
                fontSize={11}
                fill="var(--color-permanganate)"
                stroke="var(--color-chalk)"
                strokeWidth={3}
                paintOrder="stroke"
              >
                {mark.text}
              </text>
            )}
          </g>
        ))}
        {cursor !== null && (
          <path d={`M${x(cursor)} ${TOP}V${floor}`} stroke="var(--color-graphite)" strokeOpacity={0.6} />
        )}
      </g>
      <XAxis scale={x} at={floor} reach={0} count={8} label={part?.x_label ?? ""} />
      {cursor !== null && (
        <text
          data-readout="time"
          x={x(cursor)}
          y={floor + 18}
          textAnchor="middle"
          fontSize={12}
          fontWeight={600}
          stroke="var(--color-chalk)"
          strokeWidth={5}
          paintOrder="stroke"
        >
          {cursor.toFixed(Math.max(0, Math.min(6, 3 - Math.floor(Math.log10(seen.to - seen.from || 1)))))}
        </text>
      )}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: by key it is done on the figure itself */}
      <rect
        data-traces=""
        x={LEFT}
        y={TOP}
        width={Math.max(right - LEFT, 0)}
        height={Math.max(floor - TOP, 0)}
        fill="transparent"
        className={setting ? "cursor-crosshair" : "cursor-grab"}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={() => setDrag(null)}
        onDoubleClick={() => onWindow(null)}
      />
      <Overview
        x={overall}
        top={height - OVERVIEW - 2}
        height={OVERVIEW}
        line={all.data?.courses?.[0]}
        window={seen}
        onWindow={show}
      />
    </svg>
  );
}
