// The effect of a load, in words and tables: for a job that just ended and for old reports.
import { count, day } from "../shared/format";
import { SOURCES, type Source } from "./names";

export type FileProblem = { line: number | null; column: string; value: string; message: string; remedy: string };
type TableReport = {
  name: string;
  source: Source;
  grain: string;
  rows: number;
  loaded: number;
  first_day: string | null;
  last_day: string | null;
  days: number;
  pages: number;
  queries: number;
};
/** The server's report of a job; its parts depend on the kind. */
export type Outcome = {
  message?: string;
  remedy?: string;
  problems?: FileProblem[];
  counts?: Record<string, number>;
  rows?: number;
  loaded?: number;
  refused?: number;
  failed?: number; // other sites' pages
  fresh?: number;
  tables?: TableReport[];
  rows_before?: number;
  rows_new?: number;
  rows_replaced?: number;
  rows_lost?: number;
  pages_folded?: number;
  pages_left_out?: number;
  changed?: boolean;
  dry_run?: boolean;
  notices?: string[];
  refusals?: { first: FileProblem[]; counts: Record<string, number>; rows: number };
  pages?: number;
  links?: number;
  loads?: number;
  moves?: number;
  statuses?: Record<string, number>;
  connections?: { source: Source; rows: number; new: number; replaced: number }[];
};

export function LoadWords({ outcome }: { outcome: Outcome }) {
  return (
    <>
      <p className="font-serif text-base">{sentence(outcome)}</p>
      <ul>
        {outcome.tables?.map((table) => (
          <li key={table.name + table.grain} className="text-faint">
            {[
              `${SOURCES[table.source].title}${table.source === "search" ? ` by ${table.grain}` : ""}: ${count(table.loaded)} rows`,
              table.first_day &&
                `${table.days ? `${count(table.days)} days from` : "totals of"} ${day(table.first_day)} to ${day(table.last_day ?? "")}`,
              table.pages && `${count(table.pages)} pages`,
              table.queries && `${count(table.queries)} queries`,
            ]
              .filter(Boolean)
              .join(", ")}
          </li>
        ))}
      </ul>
      {outcome.dry_run && (
        <dl className="my-1 grid w-fit grid-cols-[auto_auto] gap-x-4">
          {(
            [
              ["new rows", outcome.rows_new],
              ["rows replaced", outcome.rows_replaced],
              ["rows of these days would be removed", outcome.rows_lost],
              ["rows refused", outcome.refused],
              ["addresses merged into another page", outcome.pages_folded],
              ["addresses excluded by your rules", outcome.pages_left_out],
            ] as const
          ).map(([name, value]) => (
            <div key={name} className="contents">
              <dt className="text-faint">{name}</dt>
              <dd className="text-right">{count(value)}</dd>
            </div>
          ))}
        </dl>
      )}
    </>
  );
}

function sentence(outcome: Outcome): string {
  if (outcome.dry_run)
    return outcome.changed ? "It would change this; nothing is changed yet:" : "It would change nothing.";
  if (!outcome.changed) return "Nothing changed: all rows of the file were already here.";
  return `${count(outcome.loaded)} of ${count(outcome.rows)} rows loaded.`;
}

/** The number of addresses by status. */
export const answered = (statuses: Record<string, number>) =>
  Object.entries(statuses)
    .map(([status, number]) => `${count(number)} ${status === "none" ? "not fetched" : `answered ${status}`}`)
    .join(", ");

export function Problems({
  problems,
  rows,
  counts,
}: {
  problems: FileProblem[];
  rows: number;
  counts: Record<string, number>;
}) {
  if (problems.length === 0) return null;
  return (
    <>
      {rows > 0 && (
        <p className="text-faint">
          {Object.entries(counts)
            .map(([message, number]) => `${message}: ${count(number)}`)
            .join("; ")}
        </p>
      )}
      <div className="mt-1 max-h-80 overflow-auto">
        <table className="w-full text-left">
          <thead className="text-faint text-xs">
            <tr>
              {["line", "column", "value", "what is wrong", "what to do"].map((name) => (
                <th key={name} scope="col" className="pr-3 font-normal">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {problems.map((problem) => (
              <tr key={`${problem.line}${problem.message}`} className="border-rule border-t align-top">
                <td className="pr-3">{problem.line ?? ""}</td>
                <td className="pr-3">{problem.column}</td>
                <td className="max-w-48 truncate pr-3 font-mono text-xs">{problem.value}</td>
                <td className="pr-3">{problem.message}</td>
                <td>{problem.remedy}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {rows > problems.length && (
        <p className="text-faint">
          The first {problems.length} of {count(rows)}.
        </p>
      )}
    </>
  );
}
