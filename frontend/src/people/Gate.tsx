/* Nobody sees a page before they have signed in; who was signed out while they worked goes on where they were. */
import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect } from "react";
import { problemOf, SIGNED_OUT } from "../api/client";
import { Pending } from "../ui/Message";
import { ME, useMe } from "./me";
import { SignIn } from "./SignIn";

export function Gate({ children }: { children: ReactNode }) {
  const me = useMe();
  const queries = useQueryClient();
  useEffect(() => {
    const again = () => {
      if (queries.getQueryData(ME)) queries.resetQueries({ queryKey: ME });
    };
    window.addEventListener(SIGNED_OUT, again);
    return () => window.removeEventListener(SIGNED_OUT, again);
  }, [queries]);
  if (me.data) return children;
  if (me.error && problemOf(me.error).kind === "signed_out")
    return <SignIn onDone={() => queries.resetQueries()} />;
  return <Pending failure={me.error ?? me.failureReason} onRetry={me.refetch} />;
}
