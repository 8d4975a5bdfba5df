/* Choosing a curve: the few that suit these standards as small pictures, and all of them by shape. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import type { ModelChoice } from "../../api/schema";
import { Ask } from "../../ui/Ask";
import { Pending } from "../../ui/Message";

const SHORT: Record<string, string> = {
  line: "Line",
  line_through_zero: "Through 0",
  quadratic: "Quadratic",
  hyperbola: "Saturation",
  logistic4: "4-param.",
  logistic5: "5-param.",
  logistic3: "3-param.",
  threshold_decline: "Threshold",
  exponential_decay: "Decay",
  exponential_decay_plateau: "To a plateau",
  exponential_decay_2: "Two phases",
  exponential_growth: "Exponential",
  growth_logistic: "Logistic",
  growth_gompertz: "Gompertz",
  growth_baranyi: "Baranyi",
};
const FEW = ["line", "line_through_zero", "hyperbola", "logistic4", "logistic5"];

interface Props {
  chosen: string;
  /** Those offered at once, and the shapes among which all others are. */
  few?: readonly string[];
  shapes?: readonly string[];
  onChoose: (model: ModelChoice) => void;
}

export function ModelPicker({ chosen, few: first = FEW, shapes, onChoose }: Props) {
  const [all, setAll] = useState(false);
  const models = useQuery({
    queryKey: ["models"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => answer(api.GET("/api/models")),
  });
  const list = (models.data ?? []).filter((model) => !shapes || shapes.includes(model.shape));
  const few = (first.includes(chosen) ? first : [chosen, ...first.slice(0, 4)]).flatMap((id) => {
    const found = list.find((model) => model.id === id);
    return found ? [found] : [];
  });
  return (
    <>
      <div
        role="radiogroup"
        aria-label="Model"
        className="grid grid-cols-[repeat(auto-fill,minmax(68px,1fr))] gap-1.5"
      >
        {few.map((model) => (
          <Card
            key={model.id}
            model={model}
            text={SHORT[model.id] ?? model.name}
            chosen={model.id === chosen}
            onChoose={onChoose}
          />
        ))}
        <button
          type="button"
          onClick={() => setAll(true)}
          className="rounded-md border border-rule bg-chalk p-1 text-sm hover:border-graphite"
        >
          All {list.length || ""}…
        </button>
      </div>
      <Ask title="Choose a curve" open={all} onClose={() => setAll(false)} wide>
        {!models.data && <Pending failure={models.error} onRetry={models.refetch} />}
        {[...new Set(list.map((model) => model.shape))].map((shape) => (
          <section key={shape} aria-label={shape}>
            <h3 className="mb-1 font-sans text-sm text-graphite first-letter:uppercase">{shape}</h3>
            <div role="radiogroup" aria-label={shape} className="grid grid-cols-4 gap-2">
              {list
                .filter((model) => model.shape === shape)
                .map((model) => (
                  <Card
                    key={model.id}
                    model={model}
                    text={model.name}
                    chosen={model.id === chosen}
                    onChoose={(picked) => {
                      setAll(false);
                      onChoose(picked);
                    }}
                  />
                ))}
            </div>
          </section>
        ))}
      </Ask>
    </>
  );
}

function Card({
  model,
  text,
  chosen,
  onChoose,
}: {
  model: ModelChoice;
  text: string;
  chosen: boolean;
  onChoose: (model: ModelChoice) => void;
}) {
  const path = model.x.map((x, i) => `${i ? "L" : "M"}${7 + 43 * x} ${26 - 21 * model.y[i]!}`).join("");
  return (
    <button
      type="button"
      role="radio"
      aria-checked={chosen}
      aria-label={model.name.includes(text) ? model.name : `${text}: ${model.name}`}
      title={`${model.name}: ${model.equation}`}
      onClick={() => !chosen && onChoose(model)}
      className={`flex min-w-0 flex-col items-center rounded-md border bg-chalk p-1 text-sm ${chosen ? "border-permanganate font-semibold text-permanganate ring-1 ring-permanganate" : "border-rule hover:border-graphite"}`}
    >
      <svg viewBox="0 0 56 30" className="h-[28px] w-14" aria-hidden>
        <path d="M7 3V26H52" fill="none" stroke="var(--color-rule)" strokeWidth={1.4} />
        <path d={path} fill="none" stroke="currentColor" strokeWidth={1.8} />
      </svg>
      <span className="w-full truncate text-center">{text}</span>
    </button>
  );
}
