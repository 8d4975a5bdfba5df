/* Axes: ends, scale, ticks and numbers of each, frame and grid. */
import { Pick } from "../ui/Choice";
import type { GroupProps } from "./groups";
import { type Look, withGroup } from "./look";
import { Line, OpenSize, Tick } from "./parts";

const SCALES = [
  { value: "auto", text: "by itself" },
  { value: "linear", text: "linear" },
  { value: "log", text: "logarithmic" },
] as const;
const NUMBERS = [
  { value: "auto", text: "short" },
  { value: "plain", text: "in full" },
  { value: "powers", text: "as powers of ten" },
] as const;
const FRAMES = [
  { value: "two", text: "two lines" },
  { value: "closed", text: "closed frame" },
] as const;
const TICKS = [
  { value: "out", text: "outside" },
  { value: "in", text: "inside" },
  { value: "none", text: "none" },
] as const;

export function AxesGroup({ look, keep }: GroupProps) {
  const { axes } = look;
  const set = (change: Partial<typeof axes>) => keep(withGroup(look, "axes", change));
  return (
    <>
      <OneAxis name="x" axis={axes.x} onKeep={(x) => set({ x })} />
      <OneAxis name="y" axis={axes.y} onKeep={(y) => set({ y })} />
      <Line label="drawn as">
        <Pick label="Frame" value={axes.frame} options={FRAMES} onChange={(frame) => set({ frame })} />
        <span className="text-sm text-graphite">ticks</span>
        <Pick label="Ticks" value={axes.ticks} options={TICKS} onChange={(ticks) => set({ ticks })} />
        <Tick label="minor ticks" on={axes.minor} onKeep={(minor) => set({ minor })} />
        <Tick label="grid" on={axes.grid} onKeep={(grid) => set({ grid })} />
      </Line>
    </>
  );
}

type Axis = Look["axes"]["x"];

function OneAxis({ name, axis, onKeep }: { name: "x" | "y"; axis: Axis; onKeep: (axis: Axis) => void }) {
  const set = (change: Partial<Axis>) => onKeep({ ...axis, ...change });
  return (
    <Line label={`${name} axis`}>
      <OpenSize
        label={`Where the ${name} axis begins`}
        field={name}
        value={axis.low}
        by="auto"
        onKeep={(low) =>
          set(low !== null && axis.high !== null && low >= axis.high ? { low, high: null } : { low })
        }
      />
      to
      <OpenSize
        label={`Where the ${name} axis ends`}
        value={axis.high}
        by="auto"
        onKeep={(high) =>
          set(high !== null && axis.low !== null && high <= axis.low ? { high, low: null } : { high })
        }
      />
      every
      <OpenSize
        label={`Distance of the ticks on the ${name} axis`}
        value={axis.every}
        by="auto"
        low={1e-12}
        high={1e12}
        onKeep={(every) => set({ every })}
      />
      <Pick
        label={`Scale of the ${name} axis`}
        value={axis.scale}
        options={SCALES}
        onChange={(scale) => set({ scale })}
      />
      <span className="text-sm text-graphite">numbers</span>
      <Pick
        label={`Numbers on the ${name} axis`}
        value={axis.numbers}
        options={NUMBERS}
        onChange={(numbers) => set({ numbers })}
      />
      <OpenSize
        label={`Decimals on the ${name} axis`}
        value={axis.decimals}
        by="auto"
        low={0}
        high={9}
        unit="decimals"
        onKeep={(decimals) => set({ decimals })}
      />
    </Line>
  );
}
