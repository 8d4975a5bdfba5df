/* What can be done to runs of a list, as a menu: of one on its card, of several above the list. */
import { MoreHorizontal } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import type { ButtonHTMLAttributes, Ref } from "react";
import { useNavigate } from "react-router";
import { Button } from "../ui/Button";
import { MENU, MENU_ITEM } from "../ui/menu";
import { useMadeWhenAsked } from "../ui/useMadeWhenAsked";
import type { Asked, Kept } from "./KeepAsk";
import { countOf, useKeeping } from "./keeping";

const MOST_COMPARED = 8;

interface Props {
  runs: readonly Kept[];
  onAsk: (asked: Asked) => void;
  onDone?: () => void;
}

export function RunMenu({ runs, onAsk, onDone }: Props) {
  const { keep } = useKeeping();
  const navigate = useNavigate();
  const { asked, setAsked, closed } = useMadeWhenAsked();
  const one = runs.length === 1 ? runs[0]! : null;
  const binned = runs.some((each) => each.binned);
  const archived = runs.every((each) => each.archived);
  const ids = runs.map((each) => each.id);
  const ask = (asked: Asked, text: string) => (
    <DropdownMenu.Item className={MENU_ITEM} onSelect={() => onAsk(asked)}>
      {text}
    </DropdownMenu.Item>
  );
  const archive = async () => {
    const said = `${countOf(runs)} ${archived ? "brought back" : "put away"}.`;
    const done = await keep(ids, { kind: "archive", archived: !archived }, said, {
      kind: "archive",
      archived,
    });
    if (done) onDone?.();
  };
  const takeOut = async () => {
    if (await keep(ids, { kind: "bin", binned: false }, `${countOf(runs)} taken out of the bin.`)) onDone?.();
  };
  const button = (more: ButtonHTMLAttributes<HTMLButtonElement> & { ref?: Ref<HTMLButtonElement> }) =>
    one ? (
      <Button {...more} look="icon" aria-label={`More for ${one.title}`} title="More" aria-haspopup="menu">
        <MoreHorizontal size={16} />
      </Button>
    ) : (
      <Button {...more} aria-haspopup="menu">
        With {countOf(runs)}…
      </Button>
    );
  // A menu is made once it is asked for: a list has one for every run, and making them is what scrolling would wait for.
  if (!asked) return button({ ref: closed, onClick: () => setAsked(true) });
  return (
    <DropdownMenu.Root defaultOpen modal={false} onOpenChange={(open) => !open && setAsked(false)}>
      <DropdownMenu.Trigger asChild>{button({})}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          onCloseAutoFocus={(event) => event.preventDefault()}
          className={MENU}
        >
          {binned ? (
            <DropdownMenu.Item className={MENU_ITEM} onSelect={takeOut}>
              Take out of the bin
            </DropdownMenu.Item>
          ) : (
            <>
              {one && ask("rename", "Rename…")}
              {one && ask("describe", "Describe…")}
              {ask("tags", one ? "Tags…" : "Add tags…")}
              {ask("move", "Move to a study…")}
              {one && ask("duplicate", "Duplicate…")}
              {one && (
                <DropdownMenu.Item
                  className={MENU_ITEM}
                  onSelect={() => navigate(`/studies/${one.study_id}/new?like=${one.id}`)}
                >
                  New run like this…
                </DropdownMenu.Item>
              )}
              {one && ask("method", "Keep as a method…")}
              {one && (
                <DropdownMenu.Item
                  className={MENU_ITEM}
                  onSelect={() => navigate(`/runs/${one.id}/readings`)}
                >
                  Replace the readings…
                </DropdownMenu.Item>
              )}
              {runs.length > 1 && (
                <DropdownMenu.Item
                  className={MENU_ITEM}
                  disabled={runs.length > MOST_COMPARED}
                  onSelect={() => navigate(`/compare?runs=${ids.join(",")}`)}
                >
                  {runs.length > MOST_COMPARED ? `Compare (${MOST_COMPARED} at most)` : "Compare…"}
                </DropdownMenu.Item>
              )}
              <DropdownMenu.Separator className="my-1 border-t border-rule" />
              <DropdownMenu.Item className={MENU_ITEM} onSelect={archive}>
                {archived ? "Bring back" : "Put away"}
              </DropdownMenu.Item>
              {ask("bin", "Throw into the bin…")}
            </>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
