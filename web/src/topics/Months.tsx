// The board: twelve squares, January first, each as dark as its share of a year's searches; the peak is framed.
import { MONTHS } from "./words";

type Props = { months: number[] | null | undefined; peak: number | null | undefined };

const DARKEST = 2; // twice the mean month and more

export function Months({ months, peak }: Props) {
  if (!months) return <span className="text-faint text-xs">not known</span>;
  const words = peak
    ? `Most in ${MONTHS[peak - 1]}: ${months[peak - 1]?.toFixed(1)} times the mean month.`
    : "Not seasonal: the months differ by chance.";
  return (
    <span className="inline-flex gap-px align-middle" role="img" aria-label={words} title={words}>
      {months.map((index, month) => (
        <span
          key={MONTHS[month]}
          className={`h-4 w-2.5 border ${month + 1 === peak ? "border-ink" : "border-rule"}`}
          style={{ background: peak ? `color-mix(in srgb, var(--spruce) ${shade(index)}%, var(--paper))` : undefined }}
        />
      ))}
    </span>
  );
}

/** The darkness of a square, in per cent: nothing without searches, half at the mean month. */
function shade(index: number): number {
  return Math.round(100 * Math.min(index / DARKEST, 1) ** 1.5);
}
