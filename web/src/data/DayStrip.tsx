import type { Schemas } from "../api/client";
import { count, day, monthName } from "../shared/format";

const DAY_MS = 86_400_000;
const HEIGHT = 18;
const at = (iso: string) => Date.parse(`${iso}T00:00:00Z`) / DAY_MS;

export type Span = { first: string; last: string };

/** One column a day on a common time axis, as high as its measure; missing days appear as gaps. */
export function DayStrip({ grain, span, measure }: { grain: Schemas["GrainLoaded"]; span: Span; measure: string }) {
  const start = at(span.first);
  const width = at(span.last) - start + 1;
  const most = Math.max(...grain.days.map((one) => one.measure), 1);
  const bars = grain.days
    .map((one) => {
      // Square roots keep a quiet winter visible next to the summer.
      const height = Math.max(1.5, Math.sqrt(one.measure / most) * HEIGHT);
      return `M${at(one.day) - start} ${HEIGHT}v-${height.toFixed(1)}h1v${height.toFixed(1)}z`;
    })
    .join("");
  const holes = grain.missing.map((one) => `M${at(one) - start} 0h1v${HEIGHT}h-1z`).join("");
  const words = grain.missing.length ? `${count(grain.missing.length)} days missing between` : "complete between";
  return (
    <svg
      role="img"
      aria-label={`${count(grain.days.length)} days with ${measure}, ${day(grain.first_day ?? "")} to ${day(grain.last_day ?? "")}, ${words}`}
      viewBox={`0 0 ${width} ${HEIGHT}`}
      preserveAspectRatio="none"
      className="block h-4.5 w-full border-rule border-b bg-shade/40"
    >
      <path d={bars} className="fill-faint" />
      <path d={holes} className="fill-rust" />
    </svg>
  );
}

/** The month labels of the strips. */
export function Months({ span }: { span: Span }) {
  const start = at(span.first);
  const width = at(span.last) - start + 1;
  const marks = [];
  const date = new Date(`${span.first.slice(0, 7)}-01T00:00:00Z`);
  for (date.setUTCMonth(date.getUTCMonth() + 1); date.getTime() / DAY_MS < start + width; ) {
    const month = date.getUTCMonth();
    if (month % 3 === 0)
      marks.push({
        left: ((date.getTime() / DAY_MS - start) / width) * 100,
        label: monthName(date),
      });
    date.setUTCMonth(month + 1);
  }
  return (
    <div className="relative h-4 text-faint text-xs" aria-hidden="true">
      {marks.map((mark) => (
        <span
          key={mark.left}
          style={{ left: `${mark.left}%` }}
          className="absolute border-strong-rule border-l pl-1 max-lg:odd:hidden"
        >
          {mark.label}
        </span>
      ))}
    </div>
  );
}
