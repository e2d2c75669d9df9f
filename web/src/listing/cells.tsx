// How each kind of column is shown and how wide it is, unless a list says otherwise.
import type { ReactNode } from "react";
import type { CATALOG } from "../api/catalog.generated";
import { EvidenceMark } from "../shared/EvidenceMark";
import { count, day, NONE, path, place, share, change as signed } from "../shared/format";
import { meaningOf } from "../shared/Hint";
import { type FindingName, type Grade, isSure } from "../state/view";

export type Declared = (typeof CATALOG)[FindingName]["columns"][number];
type Kind = Declared["kind"];

const TEXTS: Kind[] = ["page", "query", "text", "word"];
export const isText = (kind: Kind) => TEXTS.includes(kind);
const number = (value: unknown) => value as number | null | undefined;
const cut = (value: unknown) => (
  <span className="block truncate" title={String(value)}>
    {String(value)}
  </span>
);
const SHOWN: Partial<Record<Kind, (value: unknown) => ReactNode>> = {
  text: cut,
  page: (value) => path(String(value)),
  share: (value) => share(number(value)),
  position: (value) => place(number(value)),
  day: (value) => day(String(value)),
  grade: (value) => (
    <span className="text-xs">
      <EvidenceMark grade={value as Grade} />
    </span>
  ),
};

export function cellOf(kind: Kind, value: unknown): ReactNode {
  if (value === null || value === undefined) return NONE;
  if (SHOWN[kind]) return SHOWN[kind](value);
  if (kind === "word") return <span title={meaningOf(String(value))}>{String(value)}</span>;
  return typeof value === "number" ? count(value) : String(value);
}

export function widthOf(kind: Kind): string {
  if (isText(kind)) return "5.6rem";
  return kind === "position" ? "2.9rem" : kind === "day" ? "5.2rem" : "3.8rem";
}

/** A row's main figure, with details below. */
export function Figure(props: { value: number | null | undefined; grade?: Grade; below?: ReactNode }) {
  const { value, grade, below } = props;
  return (
    <>
      <div className="flex items-center justify-end gap-1.5 font-semibold font-serif text-lead">
        {grade && <EvidenceMark grade={grade} square />}
        {count(value)}
      </div>
      <div className="text-xs">{below}</div>
    </>
  );
}

/** The opportunity, with its parts below: lost (rust) and potential (spruce). */
export function Gain({
  row,
  grade,
}: {
  grade?: Grade;
  row: { gain_month: number; lost_month: number; potential_month: number; opportunity_month: number };
}) {
  const words = `Lost clicks: ${count(row.lost_month)} a month. Potential clicks at a better position: ${count(row.potential_month)}.`;
  const parts = (
    <span title={words} className="whitespace-nowrap">
      of {count(row.opportunity_month)}
      <span className="sr-only">{words}</span>
    </span>
  );
  return <Figure value={row.gain_month} {...(isSure(grade) && { grade: grade as Grade })} below={parts} />;
}

/** A count with its change below. */
export function Changed({ value, change }: { value: number; change: number | null | undefined }) {
  return (
    <>
      <div>{count(value)}</div>
      {change != null && <div className={`text-xs ${change < 0 ? "text-rust" : "text-faint"}`}>{signed(change)}</div>}
    </>
  );
}

/** The subject of a row, with its context or decision below. */
export function Named({ name, title, mark, below }: Record<"name" | "title" | "mark" | "below", ReactNode>) {
  return (
    <>
      <div className="truncate font-medium">{name}</div>
      <div className="flex items-baseline gap-1.5">
        {mark}
        <span className="truncate text-faint text-xs" title={typeof title === "string" ? title : undefined}>
          {below}
        </span>
      </div>
    </>
  );
}
