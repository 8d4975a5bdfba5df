/* Marks on the figure: each role by its shape; excluded and out-of-window points hollow, never hidden. */
import type { Point, Role } from "../../api/schema";
import { markPath, ROLE_COLORS } from "../../ui/RoleMark";

interface Common {
  cx: number;
  cy: number;
  active: boolean;
  onSelect: () => void;
  onHover: (on: boolean) => void;
}

interface StandardProps extends Common {
  point: Point;
  focused: boolean;
  small?: boolean;
}

export function StandardMark({ point, cx, cy, active, focused, small, onSelect, onHover }: StandardProps) {
  const used = point.state === "used";
  const color = point.state === "excluded" ? "var(--color-cinnabar)" : "var(--color-cupric)";
  const radius = small ? 3.4 : active ? 5.6 : 4.4;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the same reading is reached by key in the list
    <g
      transform={`translate(${cx},${cy})`}
      data-point={small ? undefined : point.reading}
      data-state={point.state}
      onClick={onSelect}
      onPointerEnter={() => onHover(true)}
      onPointerLeave={() => onHover(false)}
      className="cursor-pointer"
    >
      <circle r={9} fill="transparent" />
      {focused && <circle r={9} fill="none" stroke="var(--color-permanganate)" strokeWidth={2} />}
      <path
        d={markPath("standard", radius)}
        fill={used ? color : "var(--color-chalk)"}
        stroke={color}
        strokeWidth={1.4}
      />
      {point.state === "excluded" && <path d="M-6 6L6 -6" stroke={color} strokeWidth={1.4} />}
    </g>
  );
}

export function SampleMark({
  role,
  group,
  cx,
  cy,
  active,
  onSelect,
  onHover,
}: Common & { role: Role; group: string }) {
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the same answer is reached by key in the list
    <g
      transform={`translate(${cx},${cy})`}
      data-sample={group}
      onClick={onSelect}
      onPointerEnter={() => onHover(true)}
      onPointerLeave={() => onHover(false)}
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
