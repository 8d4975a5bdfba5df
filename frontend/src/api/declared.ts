/* What is declared once in Python: the questions with their roles, all roles, and the exports. */
import declared from "./declared.json";
import type { OpenRun, Role } from "./schema";

export type QuestionId = NonNullable<OpenRun["question"]>;

export interface Question {
  id: QuestionId;
  sentence: string;
  by: string;
  /** What opening a run does to its layout, where that is not plain. */
  note: string;
  /** What a row with a known level is called. */
  point: string;
  roles: { role: Role; title: string }[];
}

export interface Export {
  form: string;
  title: string;
  note: string;
  /** Copied to be pasted, not downloaded. */
  pasted: boolean;
}

export const QUESTIONS = declared.questions as Question[];
export const ROLES = declared.roles as Record<Role, { title: string; key: string }>;
export const EXPORTS = declared.exports as Export[];

/** The roles a reading can have in a run that is asked this, by what they are called there. */
export function rolesOf(question: string | undefined): Question["roles"] {
  return QUESTIONS.find((each) => each.id === question)?.roles ?? [];
}

/** The roles a row of a table can be given, as this question calls them; what has a level is its standard, dose or point. */
export function rowRolesOf(question: string | undefined): Question["roles"] {
  const asked = QUESTIONS.find((each) => each.id === question) ?? QUESTIONS[0]!;
  const point = asked.point.charAt(0).toUpperCase() + asked.point.slice(1);
  const others = asked.roles.filter(({ title }) => title !== point);
  return [{ role: "standard", title: point }, ...others];
}

/** What a role is called in a run that is asked this. */
export function roleTitle(role: Role, question?: string): string {
  return rolesOf(question).find((each) => each.role === role)?.title ?? ROLES[role].title;
}
