/* One well: its role's mark and name over its value. Drawn anew only when something of it changes. */
import { memo } from "react";
import { roleTitle } from "../../api/declared";
import type { Role } from "../../api/schema";
import { ROLE_COLORS, ROLE_TINTS, RoleMark } from "../../ui/RoleMark";
import { useIsHovered } from "../state/hover";

interface Props {
  part: string;
  name: string;
  size: number;
  height: number;
  role: Role | null;
  /** The group it is in, which it lights up with. */
  group: string | undefined;
  label: string;
  text: string;
  said: string;
  shade: string | undefined;
  chosen: boolean;
  focused: boolean;
  out: boolean;
  odd: boolean;
  changed: boolean;
  suspect: boolean;
  /** Whether it is of the curve looked at, of several. */
  lit: boolean;
  /** Whether its level is left out of the curve. */
  aside: boolean;
}

const NAMED = 42; // px from which a name fits over the value
const VALUED = 27; // and a value at all

export const Well = memo(function Well(props: Props) {
  const { role, size, chosen } = props;
  const lit = useIsHovered(props.group) || chosen;
  const look = props.out
    ? "text-cinnabar line-through"
    : props.odd || props.aside
      ? "text-iodine italic"
      : role === "unused"
        ? "text-graphite"
        : "";
  const label = role && size >= NAMED ? props.label : "";
  const seen = size >= VALUED ? [label, props.text].filter(Boolean).join(" ") : "";
  const said = `${props.name}: ${props.said}`;
  return (
    <div
      id={`well-${props.part.replace(":", "-")}`}
      role="gridcell"
      data-part={props.part}
      aria-selected={chosen}
      aria-label={seen && !said.split(/[\s,:]+/).includes(props.text) ? `${said}, shown as ${seen}` : said}
      style={{
        background: props.shade ?? (role ? ROLE_TINTS[role] : "var(--color-chalk)"),
        height: props.height,
        borderColor: lit ? "var(--color-permanganate)" : role ? ROLE_COLORS[role] : "var(--color-rule)",
        borderStyle: props.changed || props.aside ? "dashed" : "solid",
        boxShadow: props.lit
          ? `inset 0 ${size < VALUED ? "0 0 1.5px" : "-3px 0"} var(--color-ink)`
          : undefined,
      }}
      className={`relative flex min-w-0 flex-col justify-center overflow-hidden text-center leading-[1.15] ${size < 20 ? "rounded-[3px]" : "rounded-[5px]"} ${role || lit ? "border" : "border border-dotted"} ${lit ? "outline-2 -outline-offset-1 outline-permanganate" : props.focused ? "outline-1 outline-ink outline-dashed" : ""} ${role || lit ? "" : "opacity-90"}`}
    >
      {role && size >= VALUED && (
        <span className="flex items-center justify-center gap-0.5 px-0.5 text-xs">
          {label && <span className="truncate font-semibold">{label}</span>}
          <RoleMark role={role} size={8} />
        </span>
      )}
      {size >= VALUED ? (
        <span className={`truncate text-xs ${look}`}>{props.text}</span>
      ) : (
        role && (
          <span className="grid place-items-center">
            <RoleMark role={role} size={Math.min(9, size - 5)} />
          </span>
        )
      )}
      {props.suspect && (
        <span
          role="img"
          aria-label="outlying among its replicates"
          className="absolute top-0 right-0 size-0 border-t-8 border-l-8 border-t-cinnabar border-l-transparent"
        />
      )}
      {props.out && size < VALUED && (
        <span
          className="absolute inset-0 grid place-items-center text-xs font-bold text-cinnabar"
          role="img"
          aria-label="excluded"
        >
          ╱
        </span>
      )}
    </div>
  );
});

export function describeWell(
  role: Role | null,
  name: string,
  text: string,
  more: string,
  question: string | undefined,
): string {
  const what = role ? `${roleTitle(role, question)} ${name}` : "no role";
  return `${what}, ${text || "empty"}${more ? `, ${more}` : ""}`;
}
