// The ledger line: a page's clicks now, and what each lever could add, on one scale.
import { count } from "../shared/format";

type Amounts = { clicks: number; snippet: number; rank: number; unite: number };
const LEVERS = [
  ["clicks", "earned", "bg-ink"],
  ["snippet", "by a better snippet", "bg-rust"],
  ["unite", "by resolving clashes", "bg-ochre"],
  ["rank", "by a better position", "bg-spruce"],
] as const;

export function Ledger({ row, longest, tall }: { row: Amounts; longest: number; tall?: boolean }) {
  const sentence = LEVERS.map(([name, words]) => `${words} ${count(row[name])}`).join(", ");
  return (
    <div
      role="img"
      aria-label={`Clicks of the period: ${sentence}`}
      title={sentence}
      className={`flex ${tall ? "h-3" : "h-2"}`}
    >
      {LEVERS.map(([name, , tone]) => (
        <div
          key={name}
          className={`${tone} ${name === "clicks" ? "" : "border-paper border-l"}`}
          style={{ width: `${longest > 0 ? (row[name] / longest) * 100 : 0}%` }}
        />
      ))}
    </div>
  );
}

export function LedgerKey() {
  return (
    <p className="flex flex-wrap gap-x-4 text-faint text-xs">
      {LEVERS.map(([name, words, tone]) => (
        <span key={name} className="inline-flex items-center gap-1">
          <span className={`inline-block h-2 w-2 ${tone}`} aria-hidden="true" />
          {words}
        </span>
      ))}
    </p>
  );
}
