/* The sections a report can have. */
export const SECTIONS = [
  { id: "checks", text: "Checks" },
  { id: "figure", text: "Figure" },
  { id: "answers", text: "Answers" },
  { id: "curves", text: "Curves and parameters" },
  { id: "readings", text: "Readings and layout" },
  { id: "method", text: "Method" },
  { id: "working", text: "Working" },
  { id: "ledger", text: "Ledger" },
  { id: "signatures", text: "Place for signatures" },
] as const;

export type Section = (typeof SECTIONS)[number]["id"];
