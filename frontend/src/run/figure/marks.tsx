/* Marks on the figure: each role by its shape; excluded and out-of-window points hollow, never hidden. */
import type { Point, Role } from "../../api/schema";
import { markPath, ROLE_COLORS } from "../../ui/RoleMark";
import { hover, useIsHovered } from "../state/hover";

interface Common {
  cx: number;
  cy: number;
  /** Whether its group is selected; that is lit up as what is pointed at. */
  chosen: boolean;
  onSelect: () => void;
}

interface StandardProps extends Common {
  point: Point;
  focused: boolean;
  small?: boolean;
  /** One of several readings whose mean is drawn: a dot, or nothing until it is looked for. */
  single?: "dot" | "ghost" | false;
}

export function StandardMark(props: StandardProps) {
  const { point, cx, cy, chosen, focused, small, single, onSelect } = props;
  const active = useIsHovered(point.group) || chosen;
  const used = point.state === "used";
  const shown = single !== "ghost" || active || focused || !used;
  const shape = single ? "blank" : "standard";
  const color = point.state === "excluded" ? "var(--color-cinnabar)" : "var(--color-cupric)";
  const radius = single ? (active ? 3.6 : 2.2) : small ? 3.4 : active ? 5.6 : 4.4;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the same reading is reached by key in the list
    <g
      transform={`translate(${cx},${cy})`}
      data-point={small ? undefined : point.reading}
      data-state={point.state}
      onClick={onSelect}
      onPointerEnter={() => hover(point.group)}
      onPointerLeave={() => hover(null)}
      className="cursor-pointer"
    >
      <circle r={9} fill="transparent" />
      {focused && <circle r={9} fill="none" stroke="var(--color-permanganate)" strokeWidth={2} />}
      {shown && (
        <path
          d={markPath(shape, radius)}
          fill={used && !single ? color : used ? "var(--color-graphite)" : "var(--color-chalk)"}
          stroke={single && used ? "var(--color-graphite)" : color}
          strokeWidth={single ? 1 : 1.4}
        />
      )}
      {point.state === "excluded" && <path d="M-6 6L6 -6" stroke={color} strokeWidth={1.4} />}
    </g>
  );
}

export function SampleMark({
  role,
  group,
  cx,
  cy,
  chosen,
  onSelect,
}: Common & { role: Role; group: string }) {
  const active = useIsHovered(group) || chosen;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the same answer is reached by key in the list
    <g
      transform={`translate(${cx},${cy})`}
      data-sample={group}
      onClick={onSelect}
      onPointerEnter={() => hover(group)}
      onPointerLeave={() => hover(null)}
      className="cursor-pointer"
    >
      <circle r={9} fill="transparent" />
      <path
        d={markPath(role, active ? 5.6 : 3.8)}
        fill={ROLE_COLORS[role]}
        fillOpacity={active ? 1 : 0.75}
        stroke="var(--color-chalk)"
        strokeWidth={1}
      />
    </g>
  );
}
