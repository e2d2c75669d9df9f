// A chart whose points are reached by the arrow keys as well as the mouse, in the order given.
import type { KeyboardEvent, ReactNode } from "react";

type Props<Point> = {
  label: string;
  points: readonly Point[];
  at: number; // the current point; -1: none
  words: (point: Point) => string;
  pick: (point: Point) => void;
  children: ReactNode;
};

export function WalkPoints<Point>({ label, points, at, words, pick, children }: Props<Point>) {
  const current = points[at];
  function walk(event: KeyboardEvent) {
    const next = nextPoint(event.key, at, points.length);
    if (next === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    const point = points[next];
    if (point !== undefined && next !== at) pick(point);
  }
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label={`${label}; arrow keys go from point to point`}
      aria-valuemin={1}
      aria-valuemax={Math.max(points.length, 1)}
      aria-valuenow={Math.max(at + 1, 1)}
      aria-valuetext={current === undefined ? "none selected" : words(current)}
      onKeyDown={walk}
    >
      {children}
    </div>
  );
}

/** The index that a key leads to; undefined for other keys and without points. */
export function nextPoint(key: string, at: number, length: number): number | undefined {
  if (length === 0) return undefined;
  const to: Record<string, number> = { ArrowLeft: at - 1, ArrowRight: at + 1, Home: 0, End: length - 1 };
  const wanted = to[key];
  return wanted === undefined ? undefined : Math.min(Math.max(wanted, 0), length - 1);
}
