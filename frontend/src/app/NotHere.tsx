/* An address that leads nowhere. */
import { Link } from "react-router";
import { Message } from "../ui/Message";
import { TopBar } from "../ui/TopBar";

export function NotHere() {
  return (
    <div className="flex h-full flex-col">
      <TopBar trail={[]} />
      <Message title="There is nothing at this address." detail="The link may be old.">
        <Link to="/" className="text-permanganate underline">
          Go home
        </Link>
      </Message>
    </div>
  );
}
