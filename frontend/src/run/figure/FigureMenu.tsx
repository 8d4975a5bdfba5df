/* Taking the figure along with the limits it is seen in: drawn for print by the same renderer as the Figure tab. */
import { DropdownMenu } from "radix-ui";
import { attempted, copied, filed, fileOf } from "../../api/files";
import type { FigureLook } from "../../api/schema";
import { Button } from "../../ui/Button";
import { MENU, MENU_ITEM } from "../../ui/menu";
import { useOpenRun } from "../state/open";
import { type Limits, WHOLE } from "./limits";

/** The run's look with the axes as they are seen. */
function seen(look: FigureLook | null, limits: Limits, log: boolean | null): FigureLook {
  const ends = (side: "x" | "y") => {
    const [low, high] = limits[side] ?? [null, null];
    const scale = side === "x" && log !== null ? { scale: log ? ("log" as const) : ("linear" as const) } : {};
    return { ...look?.axes?.[side], ...scale, low, high };
  };
  return { ...look, axes: { ...look?.axes, x: ends("x"), y: ends("y") } } as FigureLook;
}

interface Props {
  limits?: Limits;
  /** Whether x is on a log axis; null where it cannot be. */
  log?: boolean | null;
  /** What is seen, where it is not the curves. */
  kind?: FigureLook["kind"];
}

export function FigureMenu({ limits = WHOLE, log = null, kind }: Props) {
  const { view, act, show } = useOpenRun();
  const { id, title } = view.run;
  const look = { ...seen(view.revision.method.figure ?? null, limits, log), ...(kind && { kind }) };
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button look="text" className="text-sm">
          Export…
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className={MENU} aria-label="Export the figure">
          <DropdownMenu.Item
            className={MENU_ITEM}
            onSelect={() => {
              if (limits.x || limits.y || kind)
                act({ kind: "change", changes: [{ kind: "set_figure", figure: look }], words: "Figure" });
              show("figure");
            }}
          >
            Make a figure for print…
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={MENU_ITEM}
            onSelect={() => attempted(copied(fileOf(id, "png"), look), "Figure copied.")}
          >
            Copy as a picture
          </DropdownMenu.Item>
          {(["svg", "png"] as const).map((kind) => (
            <DropdownMenu.Item
              key={kind}
              className={MENU_ITEM}
              onSelect={() =>
                attempted(
                  filed(fileOf(id, kind), `${title}.${kind}`, look),
                  `${kind.toUpperCase()} downloaded.`,
                )
              }
            >
              Download {kind.toUpperCase()}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
