import type { Schemas } from "../api/client";
import { FigureTable } from "../shared/FigureTable";
import { count, day, NONE, place, share } from "../shared/format";

/** The days as numbers: the content of the charts, for reading. */
export function DaysTable({ proof }: { proof: Schemas["RowProof"] }) {
  return (
    <details className="mt-2 mb-6">
      <summary className="text-faint link">The {count(proof.days.length)} days as a table</summary>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolled region must be reachable by keyboard */}
      <section className="mt-2 max-h-72 overflow-auto" tabIndex={0} aria-label="Days">
        <FigureTable
          rows={proof.days}
          keyOf={(one) => one.day}
          columns={[
            { head: "day", cell: (one) => day(one.day) },
            { head: "clicks", cell: (one) => count(one.clicks) },
            { head: "expected", cell: (one) => place(one.expected_clicks) },
            { head: "impressions", cell: (one) => count(one.impressions) },
            { head: "CTR", cell: (one) => (one.impressions ? share(one.clicks / one.impressions) : NONE) },
            { head: "position", cell: (one) => place(one.position) },
          ]}
        />
      </section>
    </details>
  );
}
