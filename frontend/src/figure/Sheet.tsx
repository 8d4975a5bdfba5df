/* The figure on its paper: the very drawing that is saved, at true size or larger, every part of it a way to change it. */
import { useEffect, useRef } from "react";
import type { Drawn } from "./look";

const PX_PER_MM = 96 / 25.4;
const EVERY = 10; // millimeters between the marks of the rulers
// Inside, so that the drawing's own rules for lines reach nothing else of the page.
const RULES = `
  svg { display: block; width: 100%; height: auto; }
  g[data-part] { cursor: pointer; }
  g[data-part]:hover { opacity: 0.55; }
  @media (prefers-reduced-motion: no-preference) { g[data-part] { transition: opacity 120ms; } }
`;
const PART =
  /^(title|x-title|y-title|x-ticks|y-ticks|x-power|y-power|legend|series|note|mark|free|arrow|panel-title)/;

interface Props {
  drawn: Drawn;
  /** How large the figure is shown, 1 for true size. */
  scale: number;
  onPart: (part: string) => void;
}

export function Sheet({ drawn, scale, onPart }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const told = useRef(onPart);
  told.current = onPart;
  useEffect(() => {
    const root = host.current!.shadowRoot ?? host.current!.attachShadow({ mode: "open" });
    const drawing = new DOMParser().parseFromString(drawn.svg, "image/svg+xml").documentElement;
    for (const part of drawing.querySelectorAll("g[id]"))
      if (PART.test(part.id)) part.setAttribute("data-part", part.id);
    drawing.setAttribute("role", "img");
    drawing.setAttribute("aria-label", drawn.alt);
    const rules = document.createElement("style");
    rules.textContent = RULES;
    root.replaceChildren(rules, document.importNode(drawing, true));
    const point = (event: Event) => {
      const part = (event.target as Element).closest("[data-part]");
      if (part) told.current(part.id);
    };
    root.addEventListener("click", point);
    return () => root.removeEventListener("click", point);
  }, [drawn.svg, drawn.alt]);
  const { paper } = drawn.look;
  const [width, height] = sizeOf(drawn);
  const px = PX_PER_MM * scale;
  return (
    <div className="relative m-auto w-max p-8">
      <Ruler length={width} px={px} across />
      <Ruler length={height} px={px} />
      <div
        ref={host}
        data-figure
        style={{ width: width * px }}
        className={`shadow-sm ${paper.background === "white" ? "bg-[#fff]" : "bg-[repeating-conic-gradient(#eee_0_25%,#fff_0_50%)] bg-[length:16px_16px]"}`}
      />
    </div>
  );
}

/** Width and height in mm, as the drawing says. */
export function sizeOf(drawn: Drawn): [number, number] {
  const read = (name: string) =>
    Number(new RegExp(`<svg [^>]*?\\b${name}="([\\d.]+)mm"`, "s").exec(drawn.svg)?.[1]);
  return [read("width") || 85, read("height") || 64];
}

function Ruler({ length, px, across = false }: { length: number; px: number; across?: boolean }) {
  const marks = Array.from({ length: Math.floor(length / EVERY) + 1 }, (_, i) => i * EVERY);
  const every = 2 * Math.max(1, Math.ceil(15 / (px * EVERY))); // marks between numbers, so that these do not touch
  return (
    <div
      aria-hidden
      className={`absolute text-[11px] text-graphite ${across ? "top-1 left-8 h-6" : "top-8 left-1 w-6"}`}
    >
      {marks.map((mark, i) => (
        <span
          key={mark}
          style={across ? { left: mark * px } : { top: mark * px }}
          className={`absolute ${across ? "bottom-0 border-l" : "right-0 border-t"} ${across ? (i % every ? "h-1" : "h-2") : i % every ? "w-1" : "w-2"} border-graphite/60`}
        >
          {i % every === 0 && (
            <span
              className={across ? "absolute -top-3 -translate-x-1/2" : "absolute right-2.5 -translate-y-1/2"}
            >
              {mark}
            </span>
          )}
        </span>
      ))}
    </div>
  );
}
