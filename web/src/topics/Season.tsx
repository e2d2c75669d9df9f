// A topic's year: a bar a month against the mean month, and when its page must be ready.
import type { Row } from "../api/ask";
import { day } from "../shared/format";
import { MONTHS } from "./words";

const HEIGHT = 84;
const WIDTH = 22;

export function Season({ row }: { row: Row<"topics"> }) {
  const { months, peak_month: peak } = row;
  if (!months) return <p className="text-faint">Seasonality unknown. Load monthly volumes.</p>;
  const top = Math.max(...months, 1.2);
  const up = (index: number) => HEIGHT - (HEIGHT - 4) * (index / top);
  const by = row.season_by === "searches" ? "searches" : "how often our pages are shown";
  return (
    <>
      <svg
        role="img"
        aria-label={`Seasonality by ${by}`}
        width={WIDTH * 12}
        height={HEIGHT + 16}
        className="mt-1 block max-w-full"
      >
        {months.map((index, month) => (
          <g key={MONTHS[month]}>
            <title>{`${MONTHS[month]}: ${index.toFixed(2)} times the mean month`}</title>
            <rect
              x={WIDTH * month + 3}
              y={up(index)}
              width={WIDTH - 6}
              height={HEIGHT - up(index)}
              className={month + 1 === peak ? "fill-spruce" : "fill-[var(--strong-rule)]"}
            />
            <text x={WIDTH * month + WIDTH / 2} y={HEIGHT + 12} textAnchor="middle" className="fill-faint text-axis">
              {MONTHS[month]?.[0]}
            </text>
          </g>
        ))}
        <line x1={0} x2={WIDTH * 12} y1={up(1)} y2={up(1)} className="stroke-ink" strokeDasharray="3 3" />
      </svg>
      <p className="text-faint text-xs">Bars by {by}; the dashed line is the mean month.</p>
      <p className="mt-1">
        {peak
          ? `Most in ${MONTHS[peak - 1]}.${row.ready_by ? ` A page for the coming season should stand by ${day(row.ready_by)}.` : ""}`
          : "Not seasonal: its months differ by chance."}
      </p>
    </>
  );
}
