// The relay: one lane a page, one square a day, darker at better positions, the day's best framed; hand-offs are steps between
// lanes, gaps are holes. The sentence above and the table below have the same content.
import type { Schemas } from "../api/client";
import { day, path, place, shorten } from "../shared/format";
import { useWidth } from "../shared/useWidth";

const LANE = 24;
const LEADER = 18;
const FOLLOWER = 8;
const LEFT = 4;
const SHADES = [
  [3.5, 1],
  [10.5, 0.62],
  [20.5, 0.34],
] as const;

const middle = (lane: number) => lane * LANE + LANE / 2;
const shade = (position: number) => SHADES.find(([to]) => position <= to)?.[1] ?? 0.16;

type Lane = { page: string; page_id: number; days: Schemas["LaneDay"][] };

export function Relay({ lanes, first, last }: { lanes: Lane[]; first: string; last: string }) {
  const start = Date.parse(first);
  const days = Math.round((Date.parse(last) - start) / 86_400_000) + 1;
  const [box, measured] = useWidth<HTMLElement>();
  const width = Math.max(measured - 2 * LEFT, 0);
  const step = width / days;
  const at = (iso: string) => LEFT + Math.round((Date.parse(iso) - start) / 86_400_000) * step;
  const leaders = lanes
    .flatMap((lane, number) => lane.days.filter((one) => one.best).map((one) => ({ day: one.day, lane: number })))
    .sort((one, other) => one.day.localeCompare(other.day));
  const height = lanes.length * LANE;
  const all = lanes.map((lane) => lane.page);
  return (
    <figure className="mt-2" ref={box} style={{ minHeight: height + 36 }}>
      <svg
        width={width + 2 * LEFT}
        height={height + 16}
        className="block max-w-full"
        role="img"
        aria-label={`Days of ${lanes.map((lane) => path(lane.page)).join(" and ")}: which was shown, and which stood best`}
      >
        {lanes.map((lane, number) => (
          <g key={lane.page_id}>
            <line x1={LEFT} x2={width + LEFT} y1={middle(number)} y2={middle(number)} stroke="var(--rule)" />
            {lane.days.map((one) => (
              <rect
                key={one.day}
                x={at(one.day)}
                y={middle(number) - (one.best ? LEADER : FOLLOWER) / 2}
                width={Math.max(step - 0.6, 0.8)}
                height={one.best ? LEADER : FOLLOWER}
                fill="var(--ink)"
                fillOpacity={shade(one.position)}
              >
                <title>{`${day(one.day)}: position ${place(one.position)}, ${one.impressions} impressions${one.best ? ", best of the day" : ""}`}</title>
              </rect>
            ))}
          </g>
        ))}
        {leaders.slice(1).map((one, number) => {
          const before = leaders[number];
          if (!before || before.lane === one.lane) return null;
          const x = at(one.day);
          return (
            <line
              key={one.day}
              x1={x}
              x2={x}
              y1={middle(before.lane)}
              y2={middle(one.lane)}
              stroke="var(--rust)"
              strokeWidth="0.9"
            />
          );
        })}
        <text x={LEFT} y={height + 11} fontSize="10" fill="var(--faint)">
          {day(first)}
        </text>
        <text x={width + LEFT} y={height + 11} fontSize="10" fill="var(--faint)" textAnchor="end">
          {day(last)}
        </text>
      </svg>
      <figcaption className="text-faint text-xs">
        Lanes from the top: {lanes.map((lane) => shorten(lane.page, all)).join(", ")}. Tall squares lead the day; darker
        ranks higher; a rust line is a hand-off.
      </figcaption>
    </figure>
  );
}
