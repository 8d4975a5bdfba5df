/* What stands in the place of a page that broke: what happened, that nothing saved is lost, and the way on. */
import { Link, useRouteError } from "react-router";
import { Button } from "../ui/Button";
import { Message } from "../ui/Message";
import { TopBar } from "../ui/TopBar";

export function Broken() {
  const error = useRouteError();
  const said = error instanceof Error ? error.message : String(error);
  return (
    <div className="flex h-full flex-col">
      <TopBar trail={[]} />
      <Message
        title="This page broke."
        detail={`Everything that was saved is safe. Open the page again; if it breaks again, tell us what it says here: “${said}”`}
      >
        <span className="flex items-center gap-4">
          <Button look="accent" onClick={() => window.location.reload()}>
            Open it again
          </Button>
          <Link to="/" reloadDocument className="text-permanganate underline">
            Go home
          </Link>
        </span>
      </Message>
    </div>
  );
}
