/* Notes: equation, R², n, half-effect lines, the range of the standards, and texts of one's own with an arrow. */
import { Button } from "../ui/Button";
import type { GroupProps } from "./groups";
import { type Look, withGroup } from "./look";
import { Line, OpenSize, Tick, TypedText } from "./parts";

export function NotesGroup({ look, attempt, keep }: GroupProps) {
  const { notes } = look;
  const set = (change: Partial<typeof notes>) => keep(withGroup(look, "notes", change));
  const withFree = (i: number, change: Partial<Look["notes"]["free"][number]>) =>
    withGroup(look, "notes", {
      free: notes.free.map((each, k) => (k === i ? { ...each, ...change } : each)),
    });
  return (
    <>
      <Line label="of the curve">
        <Tick label="equation" on={notes.equation} onKeep={(equation) => set({ equation })} />
        <Tick label="R²" on={notes.r_squared} onKeep={(r_squared) => set({ r_squared })} />
        <Tick label="n" on={notes.count} onKeep={(count) => set({ count })} />
        <OpenSize
          label="Digits of the equation"
          value={notes.digits}
          by="4"
          low={2}
          high={9}
          unit="digits"
          onKeep={(digits) => set({ digits: digits ?? 4 })}
        />
      </Line>
      <Line label="places">
        <Tick label="read-off and half-effect lines" on={notes.marks} onKeep={(marks) => set({ marks })} />
        <Tick label="range of the standards" on={notes.trust} onKeep={(trust) => set({ trust })} />
        <Tick label="comparison" on={notes.comparison} onKeep={(comparison) => set({ comparison })} />
        <Tick label="LOD, LOQ" on={notes.limits} onKeep={(limits) => set({ limits })} />
      </Line>
      {notes.free.map((free, i) => (
        <Line key={i} label={`text ${i + 1}`}>
          <TypedText
            label={`Text ${i + 1}`}
            field={String(i)}
            value={free.text}
            onDraft={(text) => attempt(withFree(i, { text }))}
            onKeep={(text) => keep(withFree(i, { text }))}
          />
          {(["x", "y"] as const).map((side) => (
            <OpenSize
              key={side}
              label={`Place of text ${i + 1} along ${side}, 0 to 1`}
              value={free[side]}
              by="0.5"
              low={0}
              high={1}
              unit={side}
              onKeep={(at) => keep(withFree(i, { [side]: at ?? 0.5 }))}
            />
          ))}
          <Tick
            label="arrow to"
            on={free.to_x !== null}
            onKeep={(on) => keep(withFree(i, on ? { to_x: 0.5, to_y: 0.5 } : { to_x: null, to_y: null }))}
          />
          {free.to_x !== null &&
            (["x", "y"] as const).map((side) => (
              <OpenSize
                key={side}
                label={`Where the arrow of text ${i + 1} ends along ${side}, 0 to 1`}
                value={free[`to_${side}`]}
                by="0.5"
                low={0}
                high={1}
                onKeep={(at) => keep(withFree(i, { [`to_${side}`]: at ?? 0.5 }))}
              />
            ))}
          <Button look="text" onClick={() => set({ free: notes.free.filter((_, k) => k !== i) })}>
            Remove
          </Button>
        </Line>
      ))}
      <Button
        look="text"
        className="mt-1"
        disabled={notes.free.length >= 30}
        onClick={() =>
          set({ free: [...notes.free, { text: "Text", x: 0.5, y: 0.9, to_x: null, to_y: null }] })
        }
      >
        Add a text
      </Button>
    </>
  );
}
