/* What is made only once it is asked for, because there are hundreds of its kind; the focus returns to its button. */
import { useEffect, useRef, useState } from "react";

/** `closed` is the button that stands for it until then, and again when `setAsked(false)` has closed it. */
export function useMadeWhenAsked() {
  const [asked, setAsked] = useState(false);
  const closed = useRef<HTMLButtonElement>(null);
  const returning = useRef(false);
  useEffect(() => {
    if (asked) returning.current = true;
    else if (returning.current) closed.current?.focus();
  }, [asked]);
  return { asked, setAsked, closed };
}
