/* Series: how all are drawn, and each by itself: shown, name, color, marker, line, order. */
import { ArrowDown, ArrowUp } from "lucide-react";
import { Button } from "../ui/Button";
import { Pick } from "../ui/Choice";
import type { GroupProps } from "./groups";
import { moved, withGroup, withSeries } from "./look";
import { Line, OpenSize, Tick, TypedText } from "./parts";

const DRAWN = [
  { value: "both", text: "points and lines" },
  { value: "points", text: "points" },
  { value: "line", text: "lines" },
] as const;
const POINTS = [
  { value: "readings", text: "every reading" },
  { value: "means", text: "means" },
] as const;
const BARS = [
  { value: "none", text: "no bars" },
  { value: "sd", text: "SD" },
  { value: "sem", text: "SEM" },
  { value: "interval", text: "95 % interval" },
  { value: "column", text: "the errors given" },
] as const;
const PALETTES = [
  { value: "clear", text: "clear" },
  { value: "deep", text: "deep" },
  { value: "order", text: "dark to light" },
  { value: "gray", text: "gray" },
] as const;
const MARKERS = ["circle", "square", "triangle", "diamond", "down", "cross", "plus", "star"].map((value) => ({
  value,
  text: value === "down" ? "triangle, down" : value,
}));
const DASHES = ["solid", "dashed", "dotted", "dashdot"].map((value) => ({
  value,
  text: value === "dashdot" ? "dash and dot" : value,
}));
const LISTED = 60; // series changed one by one; of more nobody tells them apart

export function SeriesGroup({ look, drawn, attempt, keep }: GroupProps) {
  const { series } = look;
  const keys = drawn.series.map((each) => each.key);
  const set = (change: Partial<typeof series>) => keep(withGroup(look, "series", change));
  const order = new Map(series.own.map((each, i) => [each.key, i]));
  const listed = [...drawn.series].sort(
    (a, b) => (order.get(a.key) ?? keys.length) - (order.get(b.key) ?? keys.length),
  );
  return (
    <>
      <Line label="drawn as">
        <Pick label="Drawn as" value={series.draw} options={DRAWN} onChange={(draw) => set({ draw })} />
        <span className="text-sm text-graphite">of</span>
        <Pick
          label="What a point is"
          value={series.points}
          options={POINTS}
          onChange={(points) => set({ points })}
        />
      </Line>
      <Line label="error bars">
        <Pick label="Error bars" value={series.bars} options={BARS} onChange={(bars) => set({ bars })} />
        <OpenSize
          label="Width of the caps in points"
          value={series.cap}
          by="2"
          low={0}
          high={40}
          unit="pt caps"
          onKeep={(cap) => set({ cap: cap ?? 2 })}
        />
        <Tick label="upward only" on={series.one_sided} onKeep={(one_sided) => set({ one_sided })} />
      </Line>
      <Line label="colors">
        <Pick
          label="Colors"
          value={series.palette}
          options={PALETTES}
          onChange={(palette) => set({ palette })}
        />
        <OpenSize
          label="Size of the markers in points"
          value={series.size}
          by="auto"
          low={0.5}
          high={40}
          unit="pt markers"
          onKeep={(size) => set({ size })}
        />
        <OpenSize
          label="Width of the lines in points"
          value={series.width}
          by="auto"
          low={0.1}
          high={20}
          unit="pt lines"
          onKeep={(width) => set({ width })}
        />
      </Line>
      <Line label="with">
        <Tick label="band of the curve" on={series.band} onKeep={(band) => set({ band })} />
        <Tick label="samples" on={series.samples} onKeep={(samples) => set({ samples })} />
        <Tick
          label="excluded points, hollow"
          on={series.excluded === "hollow"}
          onKeep={(on) => set({ excluded: on ? "hollow" : "off" })}
        />
      </Line>
      <ul aria-label="Series of the figure" className="mt-1 border-t border-rule">
        {listed.slice(0, LISTED).map(({ key, name, color }, i) => {
          const own = series.own.find((each) => each.key === key);
          const one = (change: Parameters<typeof withSeries>[3]) => keep(withSeries(look, keys, key, change));
          return (
            <li key={key} className="flex flex-wrap items-center gap-x-2 border-b border-rule py-1">
              <input
                type="checkbox"
                aria-label={`Show ${name}`}
                checked={own?.shown ?? true}
                onChange={(event) => one({ shown: event.target.checked })}
                className="accent-permanganate"
              />
              <input
                type="color"
                aria-label={`Color of ${name}`}
                value={own?.color ?? color}
                onChange={(event) => attempt(withSeries(look, keys, key, { color: event.target.value }))}
                onBlur={(event) =>
                  event.target.value !== (own?.color ?? color) && one({ color: event.target.value })
                }
                className="h-5 w-6"
              />
              <div className="min-w-[90px] flex-1">
                <TypedText
                  label={`Name of ${name}`}
                  field={String(i)}
                  value={own?.name ?? ""}
                  placeholder={name}
                  onDraft={(text) => attempt(withSeries(look, keys, key, { name: text || null }))}
                  onKeep={(text) => one({ name: text || null })}
                />
              </div>
              <Pick
                label={`Marker of ${name}`}
                value={own?.marker ?? "auto"}
                options={[{ value: "auto", text: "marker" }, ...MARKERS]}
                onChange={(marker) => one({ marker: marker === "auto" ? null : (marker as "circle") })}
              />
              <Pick
                label={`Line of ${name}`}
                value={own?.dash ?? "auto"}
                options={[{ value: "auto", text: "line" }, ...DASHES]}
                onChange={(dash) => one({ dash: dash === "auto" ? null : (dash as "solid") })}
              />
              {listed.length > 1 && (
                <>
                  <Button
                    look="icon"
                    aria-label={`${name} earlier`}
                    disabled={i === 0}
                    onClick={() => keep(moved(look, keys, key, -1))}
                  >
                    <ArrowUp size={14} />
                  </Button>
                  <Button
                    look="icon"
                    aria-label={`${name} later`}
                    disabled={i === listed.length - 1}
                    onClick={() => keep(moved(look, keys, key, 1))}
                  >
                    <ArrowDown size={14} />
                  </Button>
                </>
              )}
            </li>
          );
        })}
      </ul>
      {listed.length > LISTED && (
        <p className="py-1 text-sm text-graphite">
          The first {LISTED} of {listed.length.toLocaleString("en-GB")} series are listed; all are drawn.
        </p>
      )}
    </>
  );
}
