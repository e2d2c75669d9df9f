// Decisions about a page, its queries and the clashes that it leads, and their results.
import { Link } from "@tanstack/react-router";
import type { Schemas } from "../api/client";
import { EvidenceMark } from "../shared/EvidenceMark";
import { day, change as signed } from "../shared/format";

export function DecidedSoFar({ slug, decided }: { slug: string; decided: Schemas["DecidedShown"][] }) {
  return (
    <ol>
      {decided.map((one) => (
        <li key={`${one.move}${one.on}${one.word}${one.query}`} className="border-rule border-t py-1 first:border-t-0">
          <span className="text-faint">{day(one.on)}</span>{" "}
          {one.move === null ? (
            one.word
          ) : (
            <Link to="/$site/moves" params={{ site: slug }} search={{ row: String(one.move) }} className="link">
              {one.what}
            </Link>
          )}
          {one.query && ` for “${one.query}”`}
          {one.move !== null && `: ${one.word}`}
          {one.by && <span className="text-faint"> ({one.by})</span>}
          {one.result_clicks !== null && (
            <span className={one.result_clicks < 0 ? "text-rust" : "text-spruce"}>
              {" "}
              {signed(one.result_clicks)} clicks a day{" "}
              {one.outcome_evidence && <EvidenceMark grade={one.outcome_evidence} />}
            </span>
          )}
          {one.note && <p className="text-faint text-xs">{one.note}</p>}
        </li>
      ))}
    </ol>
  );
}
