// The weeks in numbers: what the picture above says.
import type { Schemas } from "../api/client";
import { count, day } from "../shared/format";

const COLUMNS = [
  "clicks",
  "clicks_before",
  "impressions",
  "impressions_before",
  "sessions",
  "sessions_before",
] as const;
const WORDS = ["clicks", "a year before", "shown", "a year before", "organic visits", "a year before"];

export function WeeksTable({ weeks }: { weeks: Schemas["WeekBeside"][] }) {
  return (
    <details className="mt-1">
      <summary className="text-faint text-xs">The weeks as a table</summary>
      <table className="w-full text-right">
        <thead className="text-faint text-xs">
          <tr>
            <th scope="col" className="text-left font-normal">
              week of
            </th>
            {COLUMNS.map((name, number) => (
              <th key={name} scope="col" className="font-normal">
                {WORDS[number]}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {[...weeks].reverse().map((week) => (
            <tr key={week.week} className="border-rule border-t">
              <th scope="row" className="text-left font-normal">
                {day(week.week)}
              </th>
              {COLUMNS.map((name) => (
                <td key={name}>{count(week[name])}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}
