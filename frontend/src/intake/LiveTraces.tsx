/* What a logger has read so far, growing while it reads; M marks the moment with words. */
import { useQuery } from "@tanstack/react-query";
import { type KeyboardEvent as Key, useEffect, useRef, useState } from "react";
import { answer, api } from "../api/client";
import { polyline } from "../plot/path";
import { useSize } from "../plot/useSize";

export interface Mark {
  x: number;
  text: string;
}

interface Props {
  number: number;
  marks: readonly Mark[];
  onMark: (mark: Mark) => void;
}

const POLL_MS = 250;
const HEIGHT = 64; // px of a channel
const LEFT = 150; // px for its name and its last value
const MOST = 2000; // points drawn of a channel

export function LiveTraces({ number, marks, onMark }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const { width } = useSize(frame);
  const rows = useRef<(number | null)[][]>([]);
  const [heads, setHeads] = useState<readonly string[]>([]);
  const [asking, setAsking] = useState<number | null>(null);
  const [text, setText] = useState("");
  useQuery({
    queryKey: ["so far", number],
    refetchInterval: POLL_MS,
    retry: false,
    gcTime: 0,
    queryFn: async () => {
      const found = await answer(
        api.GET("/api/instruments/{number}/so-far", {
          params: { path: { number }, query: { first: rows.current.length } },
        }),
      );
      if (found.first === rows.current.length) rows.current.push(...found.rows);
      setHeads(found.heads);
      return rows.current.length;
    },
  });
  const now = rows.current.at(-1)?.[0] ?? 0;
  const latest = useRef(now);
  latest.current = now;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = (event.target as HTMLElement).closest("input, textarea, [contenteditable]");
      if (typing || event.ctrlKey || event.metaKey || event.altKey || event.key.toLowerCase() !== "m") return;
      event.preventDefault();
      setAsking(latest.current);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  const submit = (event: Key) => {
    event.preventDefault();
    event.stopPropagation();
    if (asking !== null && text.trim()) onMark({ x: asking, text: text.trim() });
    setAsking(null);
    setText("");
  };
  const step = Math.max(1, Math.ceil(rows.current.length / MOST));
  const drawn = rows.current.filter((_, i) => i % step === 0);
  const [from, to] = [drawn[0]?.[0] ?? 0, Math.max(now, (drawn[0]?.[0] ?? 0) + 1)];
  const x = (time: number) => LEFT + ((time - from) / (to - from)) * Math.max(width - LEFT - 6, 1);
  const channels = heads.slice(1);
  return (
    <div ref={frame} className="min-w-0">
      <svg
        width={width}
        height={HEIGHT * Math.max(channels.length, 1) + 14}
        role="img"
        aria-label={`${channels.length} channels, ${rows.current.length.toLocaleString("en-GB")} samples so far`}
      >
        {channels.map((name, k) => {
          const points = drawn.filter((row) => row[0] != null && row[k + 1] != null);
          const ys = points.map((row) => row[k + 1]!);
          const [low, high] = [Math.min(...ys), Math.max(...ys)];
          const y = (value: number) =>
            14 + HEIGHT * (k + 1) - 8 - ((value - low) / (high - low || 1)) * (HEIGHT - 16);
          return (
            <g key={name}>
              <text x={0} y={14 + HEIGHT * k + 26} fontSize={12} fill="var(--color-graphite)">
                {name}
              </text>
              <text x={0} y={14 + HEIGHT * k + 44} fontSize={14} fontWeight={600}>
                {ys.at(-1)?.toFixed(4).replace("-", "−") ?? "—"}
              </text>
              <path
                data-live={name}
                d={polyline(
                  points.map((row) => x(row[0]!)),
                  ys.map(y),
                )}
                fill="none"
                stroke={k % 2 === 0 ? "var(--color-cupric)" : "var(--color-iodine)"}
                strokeWidth={1.3}
              />
            </g>
          );
        })}
        {marks.map((mark) => (
          <g key={`${mark.x} ${mark.text}`} transform={`translate(${x(mark.x)},0)`}>
            <path
              d={`M0 2V${14 + HEIGHT * channels.length}`}
              stroke="var(--color-permanganate)"
              strokeDasharray="2 3"
            />
            <text x={4} y={11} fontSize={11} fill="var(--color-permanganate)">
              {mark.text}
            </text>
          </g>
        ))}
      </svg>
      {asking === null ? (
        <p className="text-sm text-graphite">
          {now.toFixed(1)} s. Press <b>M</b> to mark the moment.
        </p>
      ) : (
        // Not a form: it stands within one.
        <div role="group" aria-label="Mark" className="flex items-center gap-2">
          <span className="text-sm text-graphite">Mark at {asking.toFixed(2)} s</span>
          <input
            aria-label="Text of the mark"
            // biome-ignore lint/a11y/noAutofocus: it was asked for by a key
            autoFocus
            value={text}
            maxLength={200}
            onChange={(event) => setText(event.target.value)}
            onKeyDown={(event) => {
              if (event.key === "Enter") submit(event);
              if (event.key === "Escape") setAsking(null);
            }}
            className="w-[220px] rounded-md border border-rule bg-chalk px-1.5"
          />
        </div>
      )}
    </div>
  );
}
