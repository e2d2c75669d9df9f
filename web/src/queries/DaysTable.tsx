import type { Schemas } from "../api/client";
import { count, day, NONE, place, share } from "../shared/format";

/** The days as numbers: what the pictures show, for those who read rather than look. */
export function DaysTable({ proof }: { proof: Schemas["RowProof"] }) {
  return (
    <details className="mt-2 mb-6">
      <summary className="text-faint underline decoration-rule underline-offset-3">
        The {count(proof.days.length)} days as a table
      </summary>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolled region must be reachable by keyboard */}
      <section className="mt-2 max-h-72 overflow-auto" tabIndex={0} aria-label="Days">
        <table className="w-full text-right">
          <thead className="sticky top-0 bg-paper text-faint text-xs">
            <tr>
              <th scope="col" className="text-left font-normal">
                day
              </th>
              {["clicks", "usual", "shown", "CTR", "position"].map((name) => (
                <th key={name} scope="col" className="font-normal">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {proof.days.map((one) => (
              <tr key={one.day} className="border-rule border-t">
                <th scope="row" className="text-left font-normal">
                  {day(one.day)}
                </th>
                <td>{count(one.clicks)}</td>
                <td>{place(one.expected_clicks)}</td>
                <td>{count(one.impressions)}</td>
                <td>{one.impressions ? share(one.clicks / one.impressions) : NONE}</td>
                <td>{place(one.position)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </details>
  );
}
