/* What is proposed for a curve, with the button that does it. */
import type { Curve } from "../../api/schema";
import { Button } from "../../ui/Button";

type Suggestion = NonNullable<Curve["suggestion"]>;

export function Suggested({ curve, onTake }: { curve: Curve; onTake: (suggestion: Suggestion) => void }) {
  const { suggestion } = curve;
  if (!suggestion) return null;
  return (
    <div className="rounded-md bg-iodine-tint p-2 text-iodine">
      {suggestion.text}{" "}
      <Button look="text" className="font-semibold" onClick={() => onTake(suggestion)}>
        {suggestion.action}
      </Button>
    </div>
  );
}
