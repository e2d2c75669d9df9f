// The weeks as small multiples, one measure each on its own scale, with the same weeks last year behind them and dated events
// as flags on a common line. The text above describes the week under the pointer; the table below lists all.
import { type KeyboardEvent, useState } from "react";
import type { Schemas } from "../api/client";
import { count, day, change as signed } from "../shared/format";
import { useWidth } from "../shared/useWidth";

type Week = Schemas["WeekCompared"];
type Event = Schemas["EventFlag"];
const MEASURES = [
  ["clicks", "clicks"],
  ["impressions", "impressions"],
  ["sessions", "organic visits"],
] as const;
const LEFT = 48;
const RIGHT = 8;
const TOP = 16;
const HEIGHT = 62;
const GAP = 24;
const FLAGS = 34;
const DAY = 86_400_000;

type Props = { weeks: Week[]; events: Event[]; pickWeek: (monday: string) => void };

export function WeeksCompared({ weeks, events, pickWeek }: Props) {
  const [box, width] = useWidth<HTMLDivElement>();
  const [pointed, setPointed] = useState<number | null>(null);
  const first = weeks[0];
  if (!first) return <p className="text-faint">Weekly lines need daily search data. Load it in Data.</p>;
  if (weeks.length < 2) return <p className="text-faint">Weekly lines need two whole weeks. Choose a longer period.</p>;
  const shown = MEASURES.filter(([name]) => weeks.some((week) => week[name] !== null));
  const step = (width - LEFT - RIGHT) / (weeks.length - 1);
  const x = (number: number) => LEFT + number * step;
  const height = TOP + shown.length * (HEIGHT + GAP) + FLAGS;
  const at = Math.min(pointed ?? weeks.length - 1, weeks.length - 1);
  const week = weeks[at];

  function walk(event: KeyboardEvent) {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (event.key === "Enter" && week) pickWeek(week.week);
    if (!by) return;
    event.preventDefault();
    setPointed(Math.min(Math.max(at + by, 0), weeks.length - 1));
  }

  const eventAt = (iso: string) => x((Date.parse(iso) - Date.parse(first.week)) / (7 * DAY));
  const flags = events
    .map((one, number) => ({ ...one, number: number + 1, x: eventAt(one.first_day), to: eventAt(one.last_day) }))
    .filter((one) => one.x >= LEFT - step && one.x <= width);
  return (
    <div ref={box} style={{ minHeight: height + 26 }}>
      <p className="flex min-h-5 flex-wrap gap-x-4" aria-live="polite" data-testid="week-reading">
        {week && (
          <>
            <span className="font-medium">Week of {day(week.week)}</span>
            {shown.map(([name, words]) => (
              <span key={name}>
                {week[name] === null ? `no data for ${words}` : `${count(week[name])} ${words}`}
                {week[`${name}_change`] !== null && (
                  <span className="text-faint"> ({signed(week[`${name}_change`])})</span>
                )}
              </span>
            ))}
            {week.days < 7 && <span className="text-ochre">{week.days} of 7 days have data</span>}
          </>
        )}
      </p>
      {width > 0 && (
        <div
          role="slider"
          tabIndex={0}
          aria-label="Weeks; arrows walk, Enter takes the week for an event"
          aria-valuemin={0}
          aria-valuemax={weeks.length - 1}
          aria-valuenow={at}
          aria-valuetext={week && `Week of ${day(week.week)}: ${count(week.clicks)} clicks`}
          onKeyDown={walk}
          onPointerMove={(event) => {
            const left = event.currentTarget.getBoundingClientRect().left;
            setPointed(Math.min(Math.max(Math.round((event.clientX - left - LEFT) / step), 0), weeks.length - 1));
          }}
          onPointerLeave={() => setPointed(null)}
          onClick={() => week && pickWeek(week.week)}
        >
          <svg width={width} height={height} aria-hidden="true">
            <PeriodShade weeks={weeks} x={x} step={step} height={height - FLAGS} />
            {shown.map(([name, words], panel) => (
              <Panel
                key={name}
                words={words}
                weeks={weeks}
                name={name}
                x={x}
                top={TOP + panel * (HEIGHT + GAP)}
                right={width - RIGHT}
              />
            ))}
            {pointed !== null && (
              <line x1={x(at)} x2={x(at)} y1={TOP - 6} y2={height - FLAGS} stroke="var(--faint)" strokeWidth="0.8" />
            )}
            <Flags flags={flags} top={height - FLAGS} left={LEFT} right={width - RIGHT} />
            <Months weeks={weeks} x={x} y={height - 4} />
          </svg>
        </div>
      )}
    </div>
  );
}

function PeriodShade(props: { weeks: Week[]; x: (number: number) => number; step: number; height: number }) {
  const { weeks, x, step, height } = props;
  const from = weeks.findIndex((week) => week.in_period);
  if (from < 0) return null;
  const to = weeks.findLastIndex((week) => week.in_period);
  return <rect x={x(from) - step / 2} y="0" width={(to - from + 1) * step} height={height} fill="var(--shade)" />;
}

type PanelProps = {
  words: string;
  weeks: Week[];
  name: "clicks" | "impressions" | "sessions";
  x: (number: number) => number;
  top: number;
  right: number;
};

function Panel({ words, weeks, name, x, top, right }: PanelProps) {
  const most = Math.max(...weeks.flatMap((week) => [week[name] ?? 0, week[`${name}_before`] ?? 0]), 1);
  const y = (value: number) => top + HEIGHT - (value / most) * HEIGHT;
  const line = (key: typeof name | `${typeof name}_before`) =>
    pieces(
      weeks.map((week) => week[key]),
      x,
      y,
    );
  return (
    <g>
      <line x1={x(0)} x2={right} y1={top + HEIGHT} y2={top + HEIGHT} stroke="var(--rule)" />
      <text x={x(0)} y={top - 5} fontSize="11" fill="var(--faint)">
        {words} a week
      </text>
      <text x={x(0) - 5} y={top + 5} fontSize="10" fill="var(--faint)" textAnchor="end">
        {count(most)}
      </text>
      <text x={x(0) - 5} y={top + HEIGHT + 3} fontSize="10" fill="var(--faint)" textAnchor="end">
        0
      </text>
      <path
        d={line(`${name}_before`)}
        fill="none"
        stroke="var(--strong-rule)"
        strokeWidth="1.2"
        strokeDasharray="3 2"
      />
      <path d={line(name)} fill="none" stroke="var(--ink)" strokeWidth="1.6" />
    </g>
  );
}

/** A line with gaps where values are unknown. */
function pieces(values: (number | null)[], x: (number: number) => number, y: (value: number) => number): string {
  return values
    .map((value, number) => {
      if (value === null) return "";
      const before = number > 0 ? values[number - 1] : null;
      return `${before == null ? "M" : "L"}${x(number).toFixed(1)} ${y(value).toFixed(1)}`;
    })
    .join("");
}

type Flag = Event & { number: number; x: number; to: number };

function Flags({ flags, top, left, right }: { flags: Flag[]; top: number; left: number; right: number }) {
  return (
    <g>
      <line x1={left} x2={right} y1={top + 16} y2={top + 16} stroke="var(--strong-rule)" />
      {flags.map((one) => (
        <g key={one.id}>
          <title>{`${one.number}. ${day(one.first_day)}: ${one.title}`}</title>
          <line x1={one.x} x2={one.x} y1={top + 1} y2={top + 16} stroke="var(--ochre)" strokeWidth="1.4" />
          <rect
            x={one.x}
            y={top + 13}
            width={Math.max(one.to - one.x, 0)}
            height="3"
            fill="var(--ochre)"
            fillOpacity="0.6"
          />
          <path d={`M${one.x} ${top + 1}h13v10h-13z`} fill="var(--ochre)" />
          <text x={one.x + 6.5} y={top + 9.5} fontSize="9" fill="var(--paper)" textAnchor="middle" fontWeight="600">
            {one.number}
          </text>
        </g>
      ))}
    </g>
  );
}

function Months({ weeks, x, y }: { weeks: Week[]; x: (number: number) => number; y: number }) {
  // Every third month is labelled at its first week.
  const named = weeks
    .map((week, number) => ({ week: week.week, number }))
    .filter(({ week }) => Number(week.slice(8)) <= 7 && [0, 3, 6, 9].includes(Number(week.slice(5, 7)) - 1));
  return named.map(({ week, number }) => (
    <text key={week} x={x(number)} y={y} fontSize="10" fill="var(--faint)" textAnchor="middle">
      {day(week).replace(/^\d+ /, "")}
    </text>
  ));
}
