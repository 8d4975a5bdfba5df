/* The group that is pointed at. It stands apart from all else, so that pointing redraws only what it touches. */
import { useSyncExternalStore } from "react";

let hovered: string | null = null;
const listeners = new Set<() => void>();

/** Point at a group, or at none. */
export function hover(group: string | null): void {
  if (group === hovered) return;
  hovered = group;
  for (const listener of listeners) listener();
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** The group pointed at: for what has to follow it whichever it is. */
export function useHovered(): string | null {
  return useSyncExternalStore(subscribe, () => hovered);
}

/** Whether that group is pointed at: redraws when this changes, and not when another is. */
export function useIsHovered(group: string | undefined): boolean {
  return useSyncExternalStore(subscribe, () => group !== undefined && hovered === group);
}
