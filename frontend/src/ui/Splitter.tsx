/* A line between two columns that is dragged, or moved by the arrow keys; where it stands is kept in this browser. */
import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import { keep, kept } from "../app/kept";

/** A width in px that a person has chosen; null where the page decides. */
export function useKeptWidth(name: string): [number | null, (width: number | null) => void] {
  const key = `width ${name}`;
  const [width, setWidth] = useState<number | null>(() => Number(kept(key)) || null);
  return [
    width,
    (next) => {
      setWidth(next);
      keep(key, next === null ? null : String(Math.round(next)));
    },
  ];
}

interface Props {
  label: string;
  /** Least and greatest width of the column before it. */
  least: number;
  most: number;
  onWidth: (width: number | null) => void;
}

const STEP = 16;

export function Splitter({ label, least, most, onWidth }: Props) {
  const line = useRef<HTMLDivElement>(null);
  const begun = useRef<{ x: number; width: number } | null>(null);
  const before = () => line.current?.parentElement?.getBoundingClientRect().width ?? least;
  const put = (width: number) => onWidth(Math.min(Math.max(width, least), most));
  const onPointerDown = (event: PointerEvent<HTMLDivElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    begun.current = { x: event.clientX, width: before() };
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === "ArrowLeft") put(before() - STEP);
    else if (event.key === "ArrowRight") put(before() + STEP);
    else if (event.key === "Home") onWidth(null);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      ref={line}
      role="separator"
      tabIndex={0}
      aria-orientation="vertical"
      aria-label={label}
      aria-valuenow={Math.round(before())}
      aria-valuemin={least}
      aria-valuemax={most}
      title="Drag to resize; double click as it was"
      onPointerDown={onPointerDown}
      onPointerMove={(event) => begun.current && put(begun.current.width + event.clientX - begun.current.x)}
      onPointerUp={() => {
        begun.current = null;
      }}
      onDoubleClick={() => onWidth(null)}
      onKeyDown={onKeyDown}
      className="absolute inset-y-0 -right-[3px] z-20 w-[6px] cursor-col-resize touch-none hover:bg-permanganate/40 focus-visible:bg-permanganate/40"
    />
  );
}
