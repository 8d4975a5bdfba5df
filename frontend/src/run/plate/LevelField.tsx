/* A concentration: typed with its unit, weighed in, or made from a stock; the working appears as it is typed. */
import { useQuery } from "@tanstack/react-query";
import { useLayoutEffect, useState } from "react";
import { answer, api, problemOf } from "../../api/client";
import type { FromStock, Weighed } from "../../api/schema";
import { Pick } from "../../ui/Choice";
import { Field, typed } from "../../ui/Field";

export type Recipe = Weighed | FromStock;
export interface LevelInput {
  typed: string;
  recipe: Recipe | null;
}
type How = "typed" | "weighed" | "stock";
const HOW = [
  { value: "typed", text: "typed" },
  { value: "weighed", text: "weighed in" },
  { value: "stock", text: "from a stock" },
] as const;

interface Props {
  label: string;
  unit: string;
  placeholder?: string;
  autoFocus?: boolean;
  onChange: (level: LevelInput) => void;
}

export function LevelField({ label, unit, placeholder, autoFocus, onChange }: Props) {
  const [how, setHow] = useState<How>("typed");
  const [level, setLevel] = useState("");
  const [weighed, setWeighed] = useState({ mass: "", volume: "", purity: "100", molar_mass: "" });
  const [stock, setStock] = useState({ stock: "", volume: "", final_volume: "" });
  const recipe: Recipe | null =
    how === "weighed" && weighed.mass && weighed.volume
      ? {
          kind: "weighed",
          mass: weighed.mass,
          volume: weighed.volume,
          purity: typed(weighed.purity) > 0 ? typed(weighed.purity) : 100,
          ...(typed(weighed.molar_mass) > 0 && { molar_mass: typed(weighed.molar_mass) }),
        }
      : how === "stock" && stock.stock && stock.volume && stock.final_volume
        ? { kind: "stock", ...stock }
        : null;
  const told = JSON.stringify([how, level, recipe]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: `told` stands for what is reported
  useLayoutEffect(() => onChange({ typed: how === "typed" ? level : "", recipe }), [told]);
  const worked = useQuery({
    queryKey: ["concentration", recipe, unit],
    enabled: recipe !== null,
    retry: false,
    queryFn: () => answer(api.POST("/api/concentration", { body: { recipe: recipe!, unit } })),
  });
  return (
    <div className="flex flex-col gap-1.5">
      {how === "typed" && (
        <Field
          label={label}
          unit={unit}
          value={level}
          placeholder={placeholder ?? (unit ? `20 ${unit}` : "20 µg/L")}
          autoFocus={autoFocus}
          onChange={setLevel}
        />
      )}
      <div className="text-sm text-graphite">
        {label} is <Pick label={`How the ${label} is given`} value={how} options={HOW} onChange={setHow} />
      </div>
      {how === "weighed" && (
        <div className="grid grid-cols-2 gap-2">
          <Field
            label="Mass"
            value={weighed.mass}
            placeholder="13.61 mg"
            autoFocus
            onChange={(mass) => setWeighed({ ...weighed, mass })}
          />
          <Field
            label="Made up to"
            value={weighed.volume}
            placeholder="100 mL"
            onChange={(volume) => setWeighed({ ...weighed, volume })}
          />
          <Field
            label="Purity"
            unit="%"
            value={weighed.purity}
            inputMode="decimal"
            onChange={(purity) => setWeighed({ ...weighed, purity })}
          />
          <Field
            label="Molar mass"
            unit="g/mol"
            value={weighed.molar_mass}
            inputMode="decimal"
            placeholder="for µM"
            onChange={(molar_mass) => setWeighed({ ...weighed, molar_mass })}
          />
        </div>
      )}
      {how === "stock" && (
        <div className="grid grid-cols-3 gap-2">
          <Field
            label="Stock (C1)"
            value={stock.stock}
            placeholder="1 g/L"
            autoFocus
            onChange={(value) => setStock({ ...stock, stock: value })}
          />
          <Field
            label="Taken (V1)"
            value={stock.volume}
            placeholder="0.5 mL"
            onChange={(volume) => setStock({ ...stock, volume })}
          />
          <Field
            label="Made up to (V2)"
            value={stock.final_volume}
            placeholder="50 mL"
            onChange={(final_volume) => setStock({ ...stock, final_volume })}
          />
        </div>
      )}
      {recipe && (
        <p className={`text-sm ${worked.error ? "text-cinnabar" : "text-malachite"}`} aria-live="polite">
          {worked.error ? problemOf(worked.error).detail : worked.data?.working}
        </p>
      )}
    </div>
  );
}
