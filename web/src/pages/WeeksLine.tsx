// A page's weeks: clicks as a line on their own scale, breaks marked. The text below describes the breaks.
import type { Schemas } from "../api/client";
import { count, day } from "../shared/format";

const WIDTH = 440;
const HEIGHT = 84;

type Props = { weeks: Schemas["WeekShown"][]; breaks: Schemas["BreaksRow"][] };

export function WeeksLine({ weeks, breaks }: Props) {
  const first = weeks[0];
  const last = weeks.at(-1);
  if (!first || !last || weeks.length < 2) return <p className="text-faint text-xs">Too few weeks for a line.</p>;
  const most = Math.max(...weeks.map((week) => week.clicks), 1);
  const at = new Map(weeks.map((week, number) => [week.week, (number / (weeks.length - 1)) * WIDTH]));
  const line = weeks.map((week) => `${at.get(week.week)},${HEIGHT - (week.clicks / most) * (HEIGHT - 14)}`).join(" ");
  return (
    <figure>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT + 14}`}
        className="w-full"
        role="img"
        aria-label={`Clicks a week, at most ${count(most)}`}
      >
        <line x1="0" x2={WIDTH} y1={HEIGHT} y2={HEIGHT} stroke="var(--rule)" />
        {breaks
          .filter((one) => one.measure === "clicks")
          .map((one) => {
            const x = at.get(one.week) ?? 0;
            const tone = one.size < 0 ? "var(--rust)" : "var(--spruce)";
            return <line key={one.week} x1={x} x2={x} y1="0" y2={HEIGHT} stroke={tone} strokeDasharray="3 2" />;
          })}
        <polyline points={line} fill="none" stroke="var(--ink)" strokeWidth="1.4" />
        <text x="0" y="10" fontSize="10" fill="var(--faint)">
          {count(most)} clicks a week
        </text>
        <text x="0" y={HEIGHT + 12} fontSize="10" fill="var(--faint)">
          {day(first.week)}
        </text>
        <text x={WIDTH} y={HEIGHT + 12} fontSize="10" fill="var(--faint)" textAnchor="end">
          {day(last.week)}
        </text>
      </svg>
    </figure>
  );
}
