/* By which method new readings are worked: one is proposed where it fits, and what does not fit is said first. */
import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import type { Choices, Fit, MethodChosen } from "../api/schema";
import { Button } from "../ui/Button";
import { Pick } from "../ui/Choice";
import { StateDot } from "../ui/StateDot";
import type { Source } from "./source";

const NONE = "none";

/** How methods fit what was brought; of one that came in pieces only where a method was chosen. */
export function useFits(
  source: Source,
  choices: Choices,
  chosen: MethodChosen | null,
  asks: Choices["question"] | undefined,
) {
  return useQuery({
    queryKey: ["fits", source.number, choices, chosen, chosen === null && asks],
    enabled: asks !== undefined && (chosen !== null || source.file === null),
    staleTime: 30_000,
    gcTime: 0,
    queryFn: () =>
      answer(
        api.POST("/api/methods/fits", {
          body: {
            text: source.text,
            files: source.files,
            file: source.file?.id ?? null,
            origin: source.origin,
            // What is asked is the method's own.
            choices: { ...choices, question: null },
            method: chosen,
            question: asks ?? null,
          },
        }),
      ),
  });
}

interface Props {
  /** Of all methods, where none is chosen; else of that one. */
  fits: readonly Fit[] | undefined;
  chosen: MethodChosen | null;
  /** Null where it is not to be chosen. */
  onChoose: ((chosen: MethodChosen | null) => void) | null;
  /** Opens the run by a method at once. */
  onOpen: (chosen: MethodChosen) => void;
  busy: boolean;
}

export function ByMethod({ fits, chosen, onChoose, onOpen, busy }: Props) {
  if (!fits || fits.length === 0) return null;
  if (chosen) {
    const fit = fits[0]!;
    return (
      <Told fit={fit} lead={chosen.run == null ? "By the method" : "Worked as the run"}>
        {onChoose && (
          <Button look="text" onClick={() => onChoose(null)}>
            Without it
          </Button>
        )}
      </Told>
    );
  }
  const proposed = fits.find((fit) => fit.proposed);
  const possible = fits.filter((fit) => !fit.stopped);
  return (
    <>
      {proposed && (
        <Told fit={proposed} lead="These look like readings for the method">
          <Button disabled={busy} onClick={() => onOpen({ id: proposed.id!, version: proposed.version! })}>
            Open by it
          </Button>
        </Told>
      )}
      {possible.length > 0 && (
        <p className="flex items-center gap-2 text-graphite">
          By a method
          <Pick
            label="By a method"
            value={NONE}
            options={[
              { value: NONE, text: "none" },
              ...possible.map((fit) => ({
                value: String(fit.id),
                text: `${fit.name}, version ${fit.version}${fit.remarks.length > 0 ? ` (${fit.remarks.length} to look at)` : ""}`,
              })),
            ]}
            onChange={(value) => value !== NONE && onChoose?.({ id: Number(value) })}
          />
        </p>
      )}
    </>
  );
}

function Told({ fit, lead, children }: { fit: Fit; lead: string; children: React.ReactNode }) {
  const state = fit.stopped ? "fail" : fit.remarks.length > 0 ? "look" : "pass";
  return (
    <section
      aria-label="Method"
      className={`flex items-start gap-2 rounded-md px-3 py-2 ${state === "fail" ? "bg-cinnabar-tint" : state === "look" ? "bg-iodine-tint" : "bg-malachite-tint"}`}
    >
      <span className="mt-1">
        <StateDot state={state} />
      </span>
      <div className="min-w-0 flex-1">
        <p>
          {lead} <b>{fit.name}</b>
          {fit.version != null && `, version ${fit.version}`}.{" "}
          {fit.stopped
            ? `They do not fit it: ${fit.stopped}`
            : fit.remarks.length === 0
              ? "They are as it expects."
              : ""}
        </p>
        {fit.remarks.length > 0 && (
          <ul className="list-disc pl-5">
            {fit.remarks.map((each) => (
              <li key={each.text}>{each.text}</li>
            ))}
          </ul>
        )}
      </div>
      {children}
    </section>
  );
}
