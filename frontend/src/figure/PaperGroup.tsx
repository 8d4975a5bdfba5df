/* Paper: what the figure is for, its size in mm, dots per inch and ground. */
import { Fragment } from "react";
import { Pick } from "../ui/Choice";
import type { GroupProps } from "./groups";
import { withGroup } from "./look";
import { Line, OpenSize } from "./parts";

const PURPOSES = [
  { value: "column", text: "Journal column, 85 mm" },
  { value: "one_and_a_half", text: "One and a half columns, 130 mm" },
  { value: "page", text: "Journal page, 175 mm" },
  { value: "report", text: "Half a page of a report" },
  { value: "slide", text: "Slide, 16:9" },
  { value: "poster", text: "Poster" },
] as const;
const DPI = ["150", "300", "600", "1200"].map((value) => ({ value, text: `${value} dpi` }));
const GROUNDS = [
  { value: "white", text: "white" },
  { value: "none", text: "none (transparent)" },
] as const;

export function PaperGroup({ look, size, keep }: GroupProps) {
  const { paper } = look;
  const set = (change: Partial<typeof paper>) => keep(withGroup(look, "paper", change));
  return (
    <>
      <Line label="for a">
        <Pick
          label="What the figure is for"
          value={paper.purpose}
          options={PURPOSES}
          onChange={(purpose) => set({ purpose, width: null, height: null })}
        />
      </Line>
      <Line label="size">
        {(["width", "height"] as const).map((side, i) => (
          <Fragment key={side}>
            {i > 0 && "×"}
            <OpenSize
              label={`${i ? "Height" : "Width"} in mm`}
              value={paper[side]}
              by={String(size[i])}
              low={20}
              high={1200}
              unit="mm"
              onKeep={(length) => set({ [side]: length })}
            />
          </Fragment>
        ))}
      </Line>
      <Line label="pictures">
        <Pick
          label="Dots per inch"
          value={String(paper.dpi)}
          options={DPI}
          onChange={(dpi) => set({ dpi: Number(dpi) as 300 })}
        />
        <span className="text-sm text-graphite">ground</span>
        <Pick
          label="Ground"
          value={paper.background}
          options={GROUNDS}
          onChange={(background) => set({ background })}
        />
      </Line>
    </>
  );
}
