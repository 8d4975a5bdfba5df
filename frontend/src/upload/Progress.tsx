/* How far something long is, with a way to stop it. */
import { Button } from "../ui/Button";

export function Progress({ text, share, onStop }: { text: string; share: number; onStop: () => void }) {
  const percent = Math.round(100 * Math.min(share, 1));
  return (
    <div className="flex items-center gap-3 rounded-lg border border-rule bg-chalk px-4 py-3">
      <span className="min-w-0 flex-1 truncate">{text}</span>
      <div
        role="progressbar"
        aria-label={text}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={percent}
        className="h-2 w-[220px] shrink-0 overflow-hidden rounded-full bg-rule"
      >
        <div className="h-full bg-permanganate" style={{ width: `${percent}%` }} />
      </div>
      <span className="w-12 shrink-0 text-right tabular-nums">{percent} %</span>
      <Button onClick={onStop}>Stop</Button>
    </div>
  );
}
