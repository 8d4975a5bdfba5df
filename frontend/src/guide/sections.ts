/* The guide as sections: each page of docs/guide cut at its headings, which carry the names they are found by. */
import { parse } from "marked";

export interface Section {
  id: string;
  title: string;
  /** The heading of the page it stands on. */
  page: string;
  html: string;
  text: string;
}

const HEADING = /^## (.+?) \{#([\w-]+)\}$/;

/** The sections of a page; its first line is its own heading. */
export function sectionsOf(source: string): Section[] {
  const lines = source.split("\n");
  const page = lines[0]!.replace(/^# /, "");
  const found: (Pick<Section, "id" | "title"> & { lines: string[] })[] = [];
  for (const line of lines.slice(1)) {
    const heading = HEADING.exec(line);
    if (heading) found.push({ title: heading[1]!, id: heading[2]!, lines: [] });
    else found.at(-1)?.lines.push(line);
  }
  return found.map(({ id, title, lines: own }) => {
    const text = own.join("\n").trim();
    return { id, title, page, text, html: parse(text, { async: false }) };
  });
}

/** Those that hold every word, those with all of them in their heading first. */
export function matching(sections: readonly Section[], wanted: string): readonly Section[] {
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
  const holds = (text: string) => words.every((word) => text.toLowerCase().includes(word));
  const kept = sections.filter((section) => holds(`${section.title} ${section.page} ${section.text}`));
  return [...kept.filter((each) => holds(each.title)), ...kept.filter((each) => !holds(each.title))];
}
