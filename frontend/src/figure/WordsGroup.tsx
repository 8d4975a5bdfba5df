/* Words: title, axis titles and legend in the light notation, face and size. */
import { useRef } from "react";
import { Pick } from "../ui/Choice";
import type { GroupProps } from "./groups";
import { withGroup } from "./look";
import { insertSymbol, Line, OpenSize, SYMBOLS, TypedText } from "./parts";

const LEGENDS = [
  { value: "auto", text: "where it fits" },
  { value: "lines", text: "at the lines" },
  { value: "inside", text: "inside the axes" },
  { value: "right", text: "beside the axes" },
  { value: "none", text: "none" },
] as const;
const FACES = [
  { value: "sans", text: "sans" },
  { value: "serif", text: "serif" },
] as const;

export function WordsGroup({ look, drawn, attempt, keep }: GroupProps) {
  const { words } = look;
  const last = useRef<HTMLInputElement | null>(null);
  const text = (field: "title" | "x" | "y" | "legend_title", label: string, placeholder: string) => (
    <TypedText
      label={label}
      field={field}
      value={words[field]}
      onFocus={(input) => {
        last.current = input;
      }}
      placeholder={placeholder}
      onDraft={(typed) => attempt(withGroup(look, "words", { [field]: typed }))}
      onKeep={(typed) => keep(withGroup(look, "words", { [field]: typed }))}
    />
  );
  return (
    <>
      <Line label="title">{text("title", "Title", "none")}</Line>
      <Line label="x title">{text("x", "Title of the x axis", drawn.x || "none")}</Line>
      <Line label="y title">{text("y", "Title of the y axis", drawn.y || "none")}</Line>
      <Line label="legend">
        <Pick
          label="Where the legend stands"
          value={words.legend}
          options={LEGENDS}
          onChange={(legend) => keep(withGroup(look, "words", { legend }))}
        />
        {text("legend_title", "Title of the legend", "no title of its own")}
      </Line>
      <Line label="symbols">
        {SYMBOLS.map((symbol) => {
          const shown = symbol === "^{−1}" ? "x⁻¹" : symbol === "_{2}" ? "x₂" : symbol;
          return (
            <button
              key={symbol}
              type="button"
              aria-label={`Insert ${shown}`}
              onMouseDown={(event) => event.preventDefault()}
              onClick={() => insertSymbol(symbol, last.current)}
              className="rounded-md px-1 text-permanganate hover:bg-permanganate-tint"
            >
              {shown}
            </button>
          );
        })}
      </Line>
      <p className="pl-[92px] text-sm text-graphite">
        x^2, mL^-1, H_2O, *italic*, **bold**, \alpha; units after a slash or in brackets set themselves.
      </p>
      <Line label="face">
        <Pick
          label="Face"
          value={words.face}
          options={FACES}
          onChange={(face) => keep(withGroup(look, "words", { face }))}
        />
        <OpenSize
          label="Size of the text in points"
          value={words.size}
          by="auto"
          low={6}
          high={72}
          unit="pt"
          onKeep={(size) => keep(withGroup(look, "words", { size }))}
        />
      </Line>
    </>
  );
}
