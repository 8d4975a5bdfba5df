/* A person's corrections to what was understood. */
import type { Choices } from "../api/schema";

export type Choose = (change: Partial<Choices>) => void;

export const NO_CHOICES: Choices = {
  stack: true,
  columns: [],
  rows: [],
  cells: [],
  edits: [],
};
