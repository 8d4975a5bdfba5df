/* Links at the top of a page, seen when they are reached by key, that lead past the bar to what the page is for. */
export function SkipLinks({ to }: { to: readonly { id: string; text: string }[] }) {
  return (
    <nav aria-label="Skip to" className="contents">
      {to.map(({ id, text }) => (
        <a
          key={id}
          href={`#${id}`}
          onClick={(event) => {
            event.preventDefault();
            const there = document.getElementById(id);
            const inside = there?.querySelector<HTMLElement>("[data-first]");
            (inside ?? there)?.focus();
          }}
          className="absolute top-1 left-1 z-50 -translate-y-20 rounded-md border border-permanganate bg-chalk px-3 py-1.5 font-semibold focus:translate-y-0"
        >
          Skip to {text}
        </a>
      ))}
    </nav>
  );
}
