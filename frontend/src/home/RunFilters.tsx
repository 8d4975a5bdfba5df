/* Above the runs: words to find them by, what they are filtered by, in which order and as what they are shown. */
import { QUESTIONS } from "../api/declared";
import type { Facets } from "../api/schema";
import { Button } from "../ui/Button";
import { Pick, Segments } from "../ui/Choice";
import { ALL, type Filter, isFiltered } from "./filter";

export type Look = "cards" | "list";

const SORTS = [
  { value: "changed", text: "last changed first" },
  { value: "created", text: "newest first" },
  { value: "title", text: "by name" },
  { value: "state", text: "what needs a look first" },
] as const;
const STATES = [
  { value: "all", text: "any state" },
  { value: "fail", text: "a check fails" },
  { value: "look", text: "look at this" },
  { value: "pass", text: "checks pass" },
] as const;

const DAYS = [
  { days: 0, text: "changed today" },
  { days: 7, text: "in the last 7 days" },
  { days: 30, text: "in the last 30 days" },
  { days: 365, text: "in the last year" },
];

/** The day so many days ago, as the server keeps days. */
function dayBefore(days: number): string {
  return new Date(Date.now() - days * 86_400_000).toISOString().slice(0, 10);
}

interface Props {
  filter: Filter;
  facets: Facets | undefined;
  look: Look;
  onFilter: (filter: Filter) => void;
  onLook: (look: Look) => void;
}

export function RunFilters({ filter, facets, look, onFilter, onLook }: Props) {
  const set = (change: Partial<Filter>) => onFilter({ ...filter, ...change });
  const of = (
    label: string,
    key: "question" | "stage" | "tag" | "person",
    any: string,
    options: { value: string; text: string }[],
  ) =>
    options.length > 1 || filter[key] !== "" ? (
      <Pick
        label={label}
        value={filter[key] || "all"}
        options={[{ value: "all", text: any }, ...options]}
        onChange={(value) => set({ [key]: value === "all" ? "" : value })}
      />
    ) : null;
  const counted = (each: { text: string; count: number }, text = each.text) => ({
    value: each.text,
    text: `${text} (${each.count})`,
  });
  const places = [
    { value: "current", text: "current runs" },
    { value: "archived", text: `put away (${facets?.archived ?? 0})` },
    { value: "bin", text: `in the bin (${facets?.binned ?? 0})` },
  ] as const;
  return (
    <search className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2 text-graphite">
      <input
        type="search"
        aria-label="Find runs"
        placeholder="title, tag, sample …"
        value={filter.find}
        maxLength={200}
        onChange={(event) => set({ find: event.target.value })}
        className="w-[190px] rounded-md border border-rule bg-chalk px-2.5 py-1 text-ink placeholder:text-graphite"
      />
      {of(
        "Question",
        "question",
        "any question",
        (facets?.questions ?? []).map((each) =>
          counted(each, QUESTIONS.find((one) => one.id === each.text)?.by ?? each.text),
        ),
      )}
      <Pick
        label="State"
        value={filter.state || "all"}
        options={STATES}
        onChange={(value) => set({ state: value === "all" ? "" : value })}
      />
      {of(
        "Review",
        "stage",
        "any stage",
        (facets?.stages ?? []).map((each) => counted(each)),
      )}
      {of(
        "Tag",
        "tag",
        "any tag",
        (facets?.tags ?? []).map((each) => counted(each)),
      )}
      {of(
        "Person",
        "person",
        "anybody",
        (facets?.people ?? []).map((each) => counted(each)),
      )}
      <Pick
        label="Changed"
        value={filter.since || "all"}
        options={[
          { value: "all", text: "any day" },
          ...DAYS.map(({ days, text }) => ({ value: dayBefore(days), text })),
        ]}
        onChange={(value) => set({ since: value === "all" ? "" : value })}
      />
      <Pick
        label="Where"
        value={filter.place === "anywhere" ? "current" : filter.place}
        options={places}
        onChange={(place) => set({ place })}
      />
      <Pick label="Order" value={filter.sort} options={SORTS} onChange={(sort) => set({ sort })} />
      {isFiltered(filter) && (
        <Button look="text" onClick={() => onFilter({ ...ALL, place: filter.place, sort: filter.sort })}>
          Show all
        </Button>
      )}
      <span className="ml-auto">
        <Segments
          label="Shown as"
          value={look}
          options={[
            { value: "cards", text: "Cards" },
            { value: "list", text: "List" },
          ]}
          onChange={onLook}
        />
      </span>
    </search>
  );
}
