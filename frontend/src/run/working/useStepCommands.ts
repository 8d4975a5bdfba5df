/* The choices of the working as commands: each can be found by its words and made without the mouse. */
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { answer, api } from "../../api/client";
import { type Act, useCommands } from "../../app/commands";
import type { OpenRun } from "../state/open";
import type { Change } from "../state/useActions";
import type { Choice } from "./choices";

export function useStepCommands({ view, room, act }: Pick<OpenRun, "view" | "room" | "act">): void {
  const models = useQuery({
    queryKey: ["models"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => answer(api.GET("/api/models")),
  });
  const { steps } = view.revision.method;
  const commands = useMemo<Act[]>(() => {
    const curves = (models.data ?? []).flatMap((model) =>
      room.models.flatMap(({ kind, shapes, also }): Choice[] =>
        !shapes || shapes.includes(model.shape)
          ? [[kind, `Curve: ${model.name}`, { ...also, model: model.id }]]
          : [],
      ),
    );
    return [...room.choices, ...curves].flatMap(([kind, text, change]) => {
      const step = steps.find((each) => each.kind === kind);
      if (!step) return [];
      const set = { kind: "set_step", step: room.chosen?.(step, change) ?? { ...step, ...change } } as Change;
      return [
        { id: text, text, quiet: true, run: () => act({ kind: "change", changes: [set], words: text }) },
      ];
    });
  }, [models.data, steps, room, act]);
  useCommands("steps", commands);
}
