/* Who is signed in, at the end of the bar, with what is theirs to do. */
import { useQueryClient } from "@tanstack/react-query";
import { CircleUser } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useNavigate } from "react-router";
import { answer, api } from "../api/client";
import { attempted } from "../api/files";
import { Button } from "../ui/Button";
import { MENU, MENU_ITEM } from "../ui/menu";
import { useMe } from "./me";

export function PersonMenu() {
  const { data: me } = useMe();
  const navigate = useNavigate();
  const queries = useQueryClient();
  if (!me) return null;
  const go = (to: string, text: string) => (
    <DropdownMenu.Item className={MENU_ITEM} onSelect={() => navigate(to)}>
      {text}
    </DropdownMenu.Item>
  );
  const signOut = async () => {
    if (await attempted(answer(api.POST("/api/sign-out")))) queries.resetQueries();
  };
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger asChild>
        <Button look="icon" aria-label={`Signed in as ${me.name}`} title={`Signed in as ${me.name}`}>
          <CircleUser size={18} />
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className={`min-w-[220px] ${MENU}`}>
          <DropdownMenu.Label className="border-b border-rule px-3 py-1.5">
            <b>{me.name}</b>
            <span className="block text-sm text-graphite">
              {me.by_itself ? "The demo's visitor: no sign-in, every right" : me.email}
            </span>
          </DropdownMenu.Label>
          {!me.by_itself && go("/account", "Your account")}
          {me.administers && !me.by_itself && go("/people", "People")}
          {me.administers && go("/ledger", "Ledger of the lab")}
          {!me.by_itself && (
            <DropdownMenu.Item className={MENU_ITEM} onSelect={signOut}>
              Sign out
            </DropdownMenu.Item>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
