/* The live figure with what is chosen of it: band, residuals, axes and, where there are several, the curve. */

import { Checkbox } from "radix-ui";
import { type ReactNode, useId, useRef, useState } from "react";
import { useSize } from "../../plot/useSize";
import { Button } from "../../ui/Button";
import { Pick, Segments } from "../../ui/Choice";
import { useCurves } from "../state/curves";
import { useOpenRun } from "../state/open";
import { AxesMenu } from "./AxesMenu";
import { AXES, BANDS, BARS, type Band, type Bars, RESIDUALS, type Residuals } from "./choices";
import { Figure } from "./Figure";
import { FigureMenu } from "./FigureMenu";
import { type Limits, WHOLE } from "./limits";

export function LiveFigure() {
  const { view, room } = useOpenRun();
  const { other, Own } = room.figure;
  const [another, setAnother] = useState(false);
  if (Own) return <Own />;
  if (another && other?.has(view)) return <other.Figure onBack={() => setAnother(false)} />;
  return <OfCurves onOther={() => setAnother(true)} />;
}

/** The shared figure of curves; `heading` stands before its choices. */
export function OfCurves({ onOther, heading }: { onOther?: () => void; heading?: ReactNode }) {
  const { view, room } = useOpenRun();
  const { curve, curves, chooseCurve } = useCurves();
  const look = room.figure;
  const [band, setBand] = useState<Band | null>("curve");
  const [residuals, setResiduals] = useState<Residuals | null>(look.residuals ? "raw" : null);
  const [bars, setBars] = useState<Bars>(look.bars?.first ?? "none");
  const [singles, setSingles] = useState(false);
  const [axis, setAxis] = useState<"log" | "linear" | null>(null);
  const [limits, setLimits] = useState<Limits>(WHOLE);
  const [ruled, setRuled] = useState(false);
  const [ranged, setRanged] = useState(true);
  const above = curve.levels.some((level) => level > 0) && !curve.levels.some((level) => level < 0);
  const log = above && (axis ?? (curve.logarithmic ? "log" : "linear")) === "log";
  return (
    <>
      <div className="mb-1 flex flex-wrap items-center gap-x-3.5 gap-y-1">
        {heading ?? <h2 className="text-lg">Curve</h2>}
        {onOther && look.other?.has(view) && <look.other.Switch onOther={onOther} />}
        <Tick label="band" on={band !== null} onChange={(on) => setBand(on ? "curve" : null)} />
        {band && !look.ofSeries && (
          <Pick label="Band of" value={band} options={BANDS} onChange={setBand} quiet />
        )}
        <Tick label="residuals" on={residuals !== null} onChange={(on) => setResiduals(on ? "raw" : null)} />
        {residuals && (
          <Pick label="Residuals are" value={residuals} options={RESIDUALS} onChange={setResiduals} quiet />
        )}
        {look.bars?.chosen && (
          <span className="flex items-center gap-1 text-graphite">
            bars <Pick label="Bars show" value={bars} options={BARS} onChange={setBars} quiet />
          </span>
        )}
        {look.ofSeries && <Tick label={look.singles} on={singles} onChange={setSingles} />}
        {above && (
          <Segments
            label="Concentrations on"
            value={log ? "log" : "linear"}
            options={AXES}
            onChange={(next) => {
              setAxis(next);
              setLimits(WHOLE);
            }}
          />
        )}
        {(curve.ruler ?? []).length > 0 && (
          <Segments
            label="Shares on"
            value={ruled ? "link" : "percent"}
            options={[
              { value: "percent", text: "% y" },
              { value: "link", text: `${curve.model} y` },
            ]}
            onChange={(next) => {
              setRuled(next === "link");
              setLimits(WHOLE);
            }}
          />
        )}
        <AxesMenu
          curve={curve}
          limits={limits}
          log={log}
          onLimits={setLimits}
          ranged={look.trusted && curve.range ? ranged : null}
          onRanged={setRanged}
        />
        <FigureMenu limits={limits} log={above ? log : null} />
      </div>
      {curves.length > 1 && (
        <p className="mb-1 flex items-center gap-2 text-graphite">
          Curve of
          <Pick
            label="Curve of"
            value={curve.key ?? ""}
            options={curves.map((each) => ({ value: each.key ?? "", text: each.key ?? "" }))}
            onChange={chooseCurve}
          />
          one of {curves.length}
        </p>
      )}
      <Drawn limits={limits} onLimits={setLimits}>
        {(width, height) => (
          <Figure
            width={width}
            height={height}
            band={band}
            residuals={residuals}
            log={log}
            bars={bars}
            singles={singles}
            limits={limits}
            onLimits={setLimits}
            ruled={ruled}
            ranged={ranged}
          />
        )}
      </Drawn>
    </>
  );
}

interface DrawnProps {
  limits: Limits;
  onLimits: (limits: Limits) => void;
  /** Whether there is something to draw; as the curve has points where it is not said. */
  drawn?: boolean;
  /** What stands beside the figure, such as a list of names. */
  beside?: ReactNode;
  children: (width: number, height: number) => ReactNode;
}

/** The room that is left for a figure of the curve, with what is said where there is none, and the way out of a zoom. */
export function Drawn({ limits, onLimits, drawn, beside, children }: DrawnProps) {
  const { room } = useOpenRun();
  const { curve } = useCurves();
  const frame = useRef<HTMLDivElement>(null);
  const size = useSize(frame);
  return (
    <>
      {curve.problem && <p className="text-cinnabar">{curve.problem}</p>}
      <div className="flex min-h-0 flex-1">
        <div ref={frame} className="relative min-h-0 min-w-0 flex-1">
          {(limits.x || limits.y) && (
            <Button className="absolute top-1 right-2 z-10 text-sm" onClick={() => onLimits(WHOLE)}>
              Show all
            </Button>
          )}
          {(drawn ?? (curve.points.length > 0 || curve.brief)) ? (
            size.width > 0 && children(size.width, size.height)
          ) : (
            <p className="grid h-full place-items-center text-graphite">{room.figure.empty}</p>
          )}
        </div>
        {beside}
      </div>
    </>
  );
}

export function Tick({
  label,
  on,
  onChange,
}: {
  label: string;
  on: boolean;
  onChange: (on: boolean) => void;
}) {
  const id = useId();
  return (
    <span className="flex items-center gap-1.5 text-graphite">
      <Checkbox.Root
        id={id}
        checked={on}
        onCheckedChange={(next) => onChange(next === true)}
        className="grid size-3.5 place-items-center rounded-[3px] border border-graphite"
      >
        <Checkbox.Indicator>
          <svg viewBox="0 0 10 10" className="size-2.5" aria-hidden>
            <path d="M1.5 5.2L4 7.7L8.7 2.3" fill="none" stroke="var(--color-ink)" strokeWidth={1.8} />
          </svg>
        </Checkbox.Indicator>
      </Checkbox.Root>
      <label htmlFor={id}>{label}</label>
    </span>
  );
}
