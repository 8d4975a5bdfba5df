/* A value once it has stopped changing, so that the server is asked once and not at every step of the way. */
import { useEffect, useState } from "react";

/** The value as it stood when it last rested for the pause; until then, what it was at first. */
export function useSettled<T>(value: T, pauseMs: number, first: T = value): T {
  const [settled, setSettled] = useState(first);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), pauseMs);
    return () => clearTimeout(timer);
  }, [value, pauseMs]);
  return settled;
}
