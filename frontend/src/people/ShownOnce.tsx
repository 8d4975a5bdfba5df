/* A secret that is shown this once, to be handed on or kept. */
import { Copy } from "lucide-react";
import { attempted } from "../api/files";
import { Button } from "../ui/Button";

export function ShownOnce({ label, text }: { label: string; text: string }) {
  return (
    <div className="flex items-center gap-2 rounded-md border border-rule bg-paper p-2">
      <output aria-label={label} className="min-w-0 flex-1 font-mono text-sm break-all select-all">
        {text}
      </output>
      <Button
        look="icon"
        aria-label={`Copy: ${label}`}
        title="Copy"
        onClick={() => attempted(navigator.clipboard.writeText(text), "Copied.")}
      >
        <Copy size={16} />
      </Button>
    </div>
  );
}
