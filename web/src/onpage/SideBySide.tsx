// The site's page and the competing pages: one column a page, one row a measure; values outside their range are underlined.
import type { Schemas } from "../api/client";
import { count, NONE } from "../shared/format";

type Details = Schemas["SideBySide"];
type Measure = Details["measures"][number];

function cell(measure: Measure, value: number | null): string {
  if (value === null) return NONE;
  if (measure.yes_no) return value ? "yes" : "no";
  return count(value);
}

export function SideBySide({ answer }: { answer: Details }) {
  const stronger = answer.stronger ?? 0;
  const known = answer.measures.filter((one) => one.ours !== null || one.above.some((value) => value !== null));
  return (
    <>
      {answer.rank_within_reach !== null && answer.rank !== null && (
        <p className="font-serif text-lead">
          You rank {answer.rank}. {stronger === 0 ? "No page" : count(stronger)}
          {stronger > 1 ? " pages" : stronger === 1 ? " page" : ""} above {stronger > 1 ? "have" : "has"} as many
          referring domains as yours, or more: position {answer.rank_within_reach} is within reach.
        </p>
      )}
      <div className="mt-1 overflow-x-auto">
        <table className="w-full whitespace-nowrap text-right text-xs">
          <thead className="text-faint">
            <tr>
              <th scope="col" className="text-left font-normal">
                measure
              </th>
              <th scope="col" className="pl-3 font-semibold text-ink">
                yours
              </th>
              {answer.pages.map((address, number) => (
                <th key={address} scope="col" className="pl-3 font-normal" title={address}>
                  <a href={address} target="_blank" rel="noreferrer nofollow" className="hover:underline">
                    {number + 1}
                    <span className="sr-only">: {address}</span>
                  </a>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {known.map((measure) => (
              <tr key={measure.name} className="border-rule border-t">
                <th scope="row" className="py-0.5 text-left font-normal">
                  {measure.label}
                </th>
                <td
                  className={`pl-3 font-semibold ${measure.outside ? "text-rust underline decoration-2 underline-offset-3" : ""}`}
                  title={measure.outside ? `${measure.outside === "low" ? "less" : "more"} than most above` : undefined}
                >
                  {cell(measure, measure.ours)}
                  {measure.outside && <span className="sr-only"> ({measure.outside})</span>}
                </td>
                {measure.above.map((value, number) => (
                  <td key={answer.pages[number]} className="pl-3">
                    {cell(measure, value)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="mt-1 text-faint text-xs">
        {answer.fetched
          ? "Underlined: outside the middle half of the competing pages. Click a number to open its page."
          : "The competing pages have not been fetched: only their referring domains are known."}
      </p>
    </>
  );
}
