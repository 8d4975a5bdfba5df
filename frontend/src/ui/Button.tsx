/* Buttons: one accent on a screen, plain for the rest, text for what is secondary. */
import type { ButtonHTMLAttributes, Ref } from "react";

const LOOKS = {
  accent:
    "bg-permanganate text-chalk font-semibold px-3.5 py-1.5 hover:bg-permanganate-deep disabled:opacity-45",
  plain: "border border-rule bg-chalk px-3 py-1.5 hover:border-graphite disabled:opacity-45",
  text: "text-permanganate hover:underline disabled:text-graphite disabled:no-underline",
  icon: "p-1.5 hover:bg-paper disabled:opacity-35",
};

export function Button({
  look = "plain",
  className = "",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & {
  look?: keyof typeof LOOKS;
  ref?: Ref<HTMLButtonElement>;
}) {
  return <button type="button" {...rest} className={`rounded-md leading-5 ${LOOKS[look]} ${className}`} />;
}
