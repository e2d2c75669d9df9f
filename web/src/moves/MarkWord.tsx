// A decision as shown on rows.
import type { Mark } from "../api/ask";

export function MarkWord({ mark }: { mark: Mark | undefined }) {
  if (!mark) return null;
  const done = mark.word === "done" || mark.word === "measured";
  return (
    <span
      className={`shrink-0 border px-1 text-xs ${done ? "border-spruce text-spruce" : mark.move ? "border-ink" : "border-strong-rule text-faint"}`}
      title={mark.why || undefined}
    >
      {mark.word}
    </span>
  );
}
