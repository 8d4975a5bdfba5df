/* The tags of a run; of many the first. */
const SHOWN = 2;

export function Tags({ tags }: { tags: readonly string[] }) {
  if (tags.length === 0) return <span />;
  return (
    <span className="flex min-w-0 gap-1 overflow-hidden text-xs" title={tags.join(", ")}>
      {tags.slice(0, SHOWN).map((tag) => (
        <span key={tag} className="truncate rounded-full border border-rule px-1.5 text-graphite">
          {tag}
        </span>
      ))}
      {tags.length > SHOWN && <span className="text-graphite">+{tags.length - SHOWN}</span>}
    </span>
  );
}
