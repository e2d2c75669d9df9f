// The ledger line: a page's clicks now to the left of the axis, what each lever could add to the right, on one scale.
import type { ReactNode } from "react";
import { count } from "../shared/format";

type Amounts = { clicks: number; snippet: number; rank: number; unite: number };
// Each part has a pattern as well as a hue.
const LEVERS = [
  ["clicks", "earned", "bg-ink"],
  ["snippet", "by a better snippet", "bg-rust"],
  ["rank", "by a better position", "bg-spruce ruled-up"],
  ["unite", "by resolving clashes", "bg-ochre ruled-across"],
] as const;
const AXIS = 0.4; // of the width

type Props = {
  row: Amounts;
  longest: number; // the largest sum of a page: the end of the scale
  tall?: boolean;
};

const sentenceOf = (row: Amounts) => LEVERS.map(([name, words]) => `${words} ${count(row[name])}`).join(", ");

/** The parts of a line from one end, as shares of `most`. */
function Parts({ row, names, most }: { row: Amounts; names: (keyof Amounts)[]; most: number }) {
  return LEVERS.filter(([name]) => names.includes(name)).map(([name, , tone]) => (
    <div
      key={name}
      className={`data ${tone} ${name === "clicks" ? "" : "border-paper border-r"}`}
      style={{ width: `${most > 0 ? Math.min(row[name] / most, 1) * 100 : 0}%` }}
    />
  ));
}

/** One line from the left. */
export function Ledger({ row, longest, tall }: Props) {
  return (
    <Line row={row} className={tall ? "h-3" : "h-2"}>
      <Parts row={row} names={["clicks", "snippet", "rank", "unite"]} most={longest} />
    </Line>
  );
}

/** A line of a list around an axis at 40 %, so that the eye ranks pages by what can be added. */
export function LedgerAroundAxis({ row, added }: { row: Amounts; added: number }) {
  const most = added / (1 - AXIS); // one scale on both sides, drawn by what can be added
  const cut = row.clicks > most * AXIS; // a page that earns more than fits begins with a gap
  return (
    <Line row={row} className="h-2">
      <div
        className={`flex justify-end ${cut ? "border-ink border-l-2 pl-1" : ""}`}
        style={{ width: `${AXIS * 100}%` }}
      >
        <Parts row={row} names={["clicks"]} most={most * AXIS} />
      </div>
      <div className="flex border-ink border-l" style={{ width: `${(1 - AXIS) * 100}%` }}>
        <Parts row={row} names={["snippet", "rank", "unite"]} most={most * (1 - AXIS)} />
      </div>
    </Line>
  );
}

function Line({ row, className, children }: { row: Amounts; className: string; children: ReactNode }) {
  const sentence = sentenceOf(row);
  return (
    <div role="img" aria-label={`Clicks of the period: ${sentence}`} title={sentence} className={`flex ${className}`}>
      {children}
    </div>
  );
}

export function LedgerKey() {
  return (
    <p className="flex flex-wrap gap-x-4 text-faint text-xs">
      {LEVERS.map(([name, words, tone]) => (
        <span key={name} className="inline-flex items-center gap-1">
          <span className={`data inline-block h-2 w-2 ${tone}`} aria-hidden="true" />
          {words}
        </span>
      ))}
    </p>
  );
}
