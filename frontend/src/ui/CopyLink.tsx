/* A link to what is looked at, put on the clipboard. */
import { toast } from "sonner";
import { Button } from "./Button";

export function CopyLink({ address }: { address: string }) {
  const copy = async () => {
    try {
      await navigator.clipboard.writeText(`${location.origin}${address}`);
      toast.success("Link copied.");
    } catch {
      toast.error(`The clipboard is closed to this page. The link is ${location.origin}${address}`);
    }
  };
  return (
    <Button look="text" className="text-sm" onClick={copy}>
      Link
    </Button>
  );
}
