// What is decided, as it stands on rows.
import type { Mark } from "../api/hooks";

export function MarkWord({ mark }: { mark: Mark }) {
  const done = mark.word === "made" || mark.word === "measured";
  return (
    <span
      className={`shrink-0 border px-1 text-xs ${done ? "border-spruce text-spruce" : mark.move ? "border-ink" : "border-strong-rule text-faint"}`}
      title={mark.why || undefined}
    >
      {mark.word}
    </span>
  );
}
