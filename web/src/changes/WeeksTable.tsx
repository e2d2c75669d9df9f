// The weeks as numbers: the content of the chart above.
import type { Schemas } from "../api/client";
import { FigureTable } from "../shared/FigureTable";
import { count, day } from "../shared/format";

type Week = Schemas["WeekCompared"];
const COLUMNS = [
  ["clicks", "clicks"],
  ["clicks_before", "a year before"],
  ["impressions", "impressions"],
  ["impressions_before", "a year before"],
  ["sessions", "organic visits"],
  ["sessions_before", "a year before"],
] as const;

export function WeeksTable({ weeks }: { weeks: Week[] }) {
  return (
    <details className="mt-1">
      <summary className="text-faint text-xs">Weeks as a table</summary>
      <FigureTable
        rows={[...weeks].reverse()}
        keyOf={(week) => week.week}
        columns={[
          { head: "week of", cell: (week) => day(week.week) },
          ...COLUMNS.map(([name, head]) => ({ head, cell: (week: Week) => count(week[name]) })),
        ]}
      />
    </details>
  );
}
