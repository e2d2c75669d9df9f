import type { Grade } from "../state/view";
import { meaningOf } from "./Hint";

/** The evidence: a square filled by grade, and the word, which a small place leaves to the tooltip and screen readers. */
export function EvidenceMark({ grade, square }: { grade: Grade; square?: true }) {
  return (
    <span
      className="inline-flex items-center gap-1"
      title={square ? `${grade}: ${meaningOf(grade)}` : meaningOf(grade)}
    >
      <svg width="9" height="9" viewBox="0 0 9 9" aria-hidden="true">
        <rect x="0.5" y="0.5" width="8" height="8" fill="none" stroke="currentColor" />
        {grade === "firm" && <rect width="9" height="9" fill="currentColor" />}
        {grade === "possible" && <path d="M3 3h3v3H3z" fill="currentColor" />}
        {grade === "likely" && <path d="M0 0h4.5v4.5H0zM4.5 4.5H9V9H4.5z" fill="currentColor" />}
      </svg>
      <span className={square ? "sr-only" : grade === "too little data" ? "text-faint" : ""}>{grade}</span>
    </span>
  );
}
