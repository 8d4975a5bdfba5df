/* Very many scans as one picture, which is drawn faster than as thousands of paths. */
import { useEffect, useRef } from "react";

export interface DrawnScan {
  key: string;
  x: readonly number[];
  y: readonly number[];
  color: string;
}

interface Props {
  scans: readonly DrawnScan[];
  x: (value: number) => number;
  y: (value: number) => number;
  width: number;
  height: number;
  /** The frame within which lines are drawn. */
  frame: { left: number; right: number; top: number; bottom: number };
}

export function ScanCanvas({ scans, x, y, width, height, frame }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const element = canvas.current!;
    const scale = window.devicePixelRatio || 1;
    element.width = Math.round(width * scale);
    element.height = Math.round(height * scale);
    const pen = element.getContext("2d");
    if (!pen) return;
    pen.scale(scale, scale);
    pen.clearRect(0, 0, width, height);
    pen.beginPath();
    pen.rect(frame.left, frame.top, frame.right - frame.left, frame.bottom - frame.top);
    pen.clip();
    pen.lineWidth = 0.8;
    pen.globalAlpha = scans.length > 300 ? 0.35 : 0.7;
    for (const scan of scans) {
      pen.strokeStyle = scan.color;
      pen.beginPath();
      for (let i = 0; i < scan.x.length; i++) pen.lineTo(x(scan.x[i]!), y(scan.y[i]!));
      pen.stroke();
    }
  }, [scans, x, y, width, height, frame.left, frame.right, frame.top, frame.bottom]);
  return (
    <canvas
      ref={canvas}
      data-scans={scans.length}
      tabIndex={-1}
      style={{ width, height }}
      className="pointer-events-none absolute top-0 left-0"
    />
  );
}
