/* Who is signed in, and what they may do: asked once, and again when somebody else comes in. */
import { useQuery } from "@tanstack/react-query";
import { answer, api, setPageKey } from "../api/client";
import type { Me, Right } from "../api/schema";

export const ME = ["me"] as const;

export function useMe() {
  return useQuery({
    queryKey: ME,
    staleTime: 60_000,
    queryFn: async () => {
      const me = await answer(api.GET("/api/me"));
      setPageKey(me.page_key);
      return me;
    },
  });
}

/** Whether the person may do something in a study, or in the lab as a whole. */
export function may(me: Me | undefined, right: Right, study?: number): boolean {
  if (!me) return false;
  return me.rights.includes(right) || (study !== undefined && (me.studies[study]?.includes(right) ?? false));
}
