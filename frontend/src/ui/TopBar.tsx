/* The bar at the top of every screen: the wordmark, where one is, and what can be done. */
import { type ReactNode, useEffect } from "react";
import { Link } from "react-router";
import { CommandField } from "../app/commands";
import { GuideButton } from "../app/guide";
import { PersonMenu } from "../people/PersonMenu";

export interface Crumb {
  text: string;
  to?: string;
}

export function TopBar({ trail, children }: { trail: Crumb[]; children?: ReactNode }) {
  const here = trail.at(-1)?.text;
  useEffect(() => {
    document.title = here ? `${here} · Dosis` : "Dosis";
  }, [here]);
  return (
    <header className="flex h-[46px] shrink-0 items-center gap-3 border-b border-rule bg-chalk px-4">
      <Link
        to="/"
        className="flex shrink-0 items-center gap-2 font-serif text-[20px] font-bold"
        aria-label="Dosis, home"
      >
        <img src="/drop.svg" alt="" className="size-6" />
        Dosis
      </Link>
      <nav aria-label="Where you are" className="flex min-w-0 items-center gap-2 text-graphite">
        {trail.map((crumb, i) => (
          <span key={i} className="flex min-w-0 items-center gap-2">
            {i > 0 && <span aria-hidden>/</span>}
            {crumb.to ? (
              <Link to={crumb.to} title={crumb.text} className="truncate hover:text-ink">
                {crumb.text}
              </Link>
            ) : (
              <span className="truncate font-semibold text-ink" title={crumb.text}>
                {crumb.text}
              </span>
            )}
          </span>
        ))}
      </nav>
      <div className="ml-auto flex shrink-0 items-center gap-2">
        {children}
        <GuideButton />
        <CommandField />
        <PersonMenu />
      </div>
    </header>
  );
}
