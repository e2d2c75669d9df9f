import type { Schemas } from "../api/client";
import { DateField } from "../shared/DateField";
import { Button } from "../shared/parts";
import { type Chosen, rowsAbout } from "./chosen";
import { fieldWord, SOURCES, type Source } from "./names";

const CHANNELS = ["organic", "paid", "direct", "referral", "social", "email", "other"] as const;
type Table = Schemas["TableSeen"];
type Choices = Schemas["ChoicesMade"];

type Props = {
  table: Table;
  chosen: Chosen;
  several: boolean;
  encodings: string[];
  change: (part: Partial<Chosen>) => void;
  lookAgain: (source: Source, choices: Choices) => void;
};

/** One table: its source, its columns, its first rows. */
export function TableMatching({ table, chosen, several, encodings, change, lookAgain }: Props) {
  if (table.refused) {
    return (
      <p className="border-rule border-b py-1.5">
        <span className="font-semibold">{table.name}</span>{" "}
        <span className="text-faint">cannot be read: {table.refused}</span>
      </p>
    );
  }
  return (
    <div className={several ? "border-rule border-b py-2 last:border-0" : ""}>
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <h2 className="text-lg">{table.name}</h2>
        {several && (
          <label className="flex min-h-6 items-center gap-1.5">
            <input type="checkbox" checked={!chosen.skip} onChange={() => change({ skip: !chosen.skip })} />
            load it
          </label>
        )}
        <span className="text-faint">
          {rowsAbout(table)}
          {table.remembered && " Its columns are mapped as last time."}
          {!table.remembered && chosen.source === table.source && howSure(table)}
        </span>
      </div>
      {!chosen.skip && (
        <>
          <Settled table={table} chosen={chosen} encodings={encodings} lookAgain={lookAgain} />
          {table.needs_span && <SpanOf table={table} chosen={chosen} change={change} />}
          <Columns table={table} chosen={chosen} change={change} />
          {table.notices.map((notice) => (
            <p key={notice} className="mt-1 text-faint text-xs">
              {notice}
            </p>
          ))}
        </>
      )}
    </div>
  );
}

/** How certain the source is, by its columns. */
function howSure({ missing, could_be }: Table) {
  if (missing.length) return " Its columns do not show its kind: choose.";
  if (!could_be.length) return " Recognised by its columns.";
  return ` It could also be ${could_be.map((source) => SOURCES[source].title.toLowerCase()).join(" or ")}: check “Taken for”.`;
}

/** Choices where a file's bytes are ambiguous. */
function Settled({ table, chosen, encodings, lookAgain }: Pick<Props, "table" | "chosen" | "encodings" | "lookAgain">) {
  const settle = (part: Partial<Choices>) => lookAgain(chosen.source, { ...chosen.choices, ...part });
  return (
    <div className="mt-1.5 flex flex-wrap items-center gap-x-5 gap-y-1.5">
      <Choice
        label="Taken for"
        value={chosen.source}
        options={Object.entries(SOURCES).map(([value, { title }]) => [value, title])}
        choose={(source) => lookAgain(source as Source, chosen.choices)}
      />
      {table.sheets.length > 1 && (
        <Choice
          label="Sheet"
          value={table.sheet ?? ""}
          options={table.sheets.map((name) => [name, name])}
          choose={(sheet) => settle({ sheet })}
        />
      )}
      {table.encoding && (
        <Choice
          label="Text encoding"
          value={table.encoding}
          options={encodings.map((name) => [name, name])}
          choose={(encoding) => settle({ encoding })}
        />
      )}
      <Choice
        label="Decimals"
        value={table.decimal}
        options={[
          [".", "1,234.5"],
          [",", "1.234,5"],
        ]}
        choose={(decimal) => settle({ decimal: decimal as "." | "," })}
      />
      {(table.ambiguous_days || table.day_order) && (
        <Choice
          label="Days"
          value={table.day_order ?? ""}
          options={[
            ...(table.day_order ? [] : ([["", "which way?"]] as [string, string][])),
            ["day first", "31/12/2026"],
            ["month first", "12/31/2026"],
          ]}
          choose={(order) => order && settle({ day_order: order as "day first" | "month first" })}
        />
      )}
      {chosen.source === "search" && (
        <Choice
          label="Duplicate rows"
          value={chosen.choices.repeats ?? ""}
          options={[
            ["", "ask me"],
            ["once", "count once"],
            ["each", "add up"],
          ]}
          choose={(repeats) => settle({ repeats: repeats === "" ? null : (repeats as "once" | "each") })}
        />
      )}
      {chosen.source === "visits" && chosen.mapping.channel === undefined && (
        <Choice
          label="All visits are"
          value={chosen.choices.channel ?? "other"}
          options={CHANNELS.map((name) => [name, name])}
          choose={(channel) => settle({ channel: channel as (typeof CHANNELS)[number] })}
        />
      )}
    </div>
  );
}

/** The days that a table without days covers. */
function SpanOf({ table, chosen, change }: Pick<Props, "table" | "chosen" | "change">) {
  const span = chosen.choices.span ?? table.span ?? { first: "", last: "" };
  const set = (part: { first?: string; last?: string }) =>
    change({ choices: { ...chosen.choices, span: { ...span, ...part } } });
  return (
    <fieldset className="mt-2 flex flex-wrap items-end gap-3">
      <legend className="mb-1 text-sm">
        This table has no days, only totals.{" "}
        {table.span_from ? `Its days are taken from ${table.span_from}.` : "Which days does it cover?"}
      </legend>
      <div className="w-36">
        <DateField label="first day" value={span.first} onDay={(first) => set({ first })} />
      </div>
      <div className="w-36">
        <DateField label="last day" value={span.last} onDay={(last) => set({ last })} />
      </div>
      {!table.span && (
        <span className="flex flex-wrap gap-2">
          {Object.entries(USUAL_SPANS).map(([name, days]) => (
            <Button key={name} onClick={() => change({ choices: { ...chosen.choices, span: days() } })}>
              {name}
            </Button>
          ))}
        </span>
      )}
    </fieldset>
  );
}

const iso = (date: Date) => date.toISOString().slice(0, 10);
/** The last month with complete search figures: they arrive two days late (common practice, no source). */
function lastMonths(months: number) {
  const last = new Date();
  last.setUTCDate(last.getUTCDate() - 2);
  const first = new Date(last);
  first.setUTCMonth(first.getUTCMonth() - months);
  first.setUTCDate(first.getUTCDate() + 1);
  return { first: iso(first), last: iso(last) };
}
const USUAL_SPANS = {
  "last 28 days": () => {
    const last = lastMonths(1).last;
    return { first: iso(new Date(Date.parse(last) - 27 * 86_400_000)), last };
  },
  "last 3 months": () => lastMonths(3),
  "last 12 months": () => lastMonths(12),
};

function Choice(props: { label: string; value: string; options: [string, string][]; choose: (value: string) => void }) {
  return (
    <label className="flex items-center gap-1.5">
      <span className="text-faint">{props.label}</span>
      <select
        value={props.value}
        onChange={(event) => props.choose(event.target.value)}
        className="max-w-52 border border-strong-rule bg-sheet px-1 py-0.5"
      >
        {props.options.map(([value, name]) => (
          <option key={value} value={value}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
}

/** The columns above the first rows; each can be changed. */
function Columns({ table, chosen, change }: Pick<Props, "table" | "chosen" | "change">) {
  const fieldOf = (column: number) => table.fields.find((field) => chosen.mapping[field.name] === column)?.name ?? "";

  function assign(column: number, field: string) {
    const rest = Object.entries(chosen.mapping).filter(([name, index]) => index !== column && name !== field);
    change({ mapping: { ...Object.fromEntries(rest), ...(field && { [field]: column }) } });
  }

  const several = columnsOfSeveralHosts(table.first_rows);
  return (
    <div className="mt-2 overflow-x-auto">
      <table className="w-full border-rule border-y text-left">
        <thead>
          <tr>
            {table.header.map((name, column) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: names may repeat; the place tells columns apart
              <th key={column} scope="col" className="border-rule border-b px-1.5 py-1.5 font-normal">
                <label>
                  <span className="block max-w-40 truncate font-semibold">{name || `column ${column + 1}`}</span>
                  <select
                    aria-label={name || `column ${column + 1}`}
                    value={fieldOf(column)}
                    onChange={(event) => assign(column, event.target.value)}
                    className={`w-28 border border-strong-rule bg-sheet px-1 py-0.5 ${fieldOf(column) ? "" : "text-faint"}`}
                  >
                    <option value="">not used</option>
                    {table.fields.map((field) => (
                      <option key={field.name} value={field.name}>
                        {fieldWord(chosen.source, field.name)}
                      </option>
                    ))}
                  </select>
                </label>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {table.first_rows.map((row, number) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: rows of a file have no other name
            <tr key={number} className="border-rule border-b last:border-0">
              {row.map((cell, column) => (
                <td
                  // biome-ignore lint/suspicious/noArrayIndexKey: as above
                  key={column}
                  title={cell}
                  className={`max-w-40 truncate px-1.5 py-1 ${fieldOf(column) ? "" : "text-faint"}`}
                >
                  {separate(cell, several.has(column))}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

const HOST = /^https?:\/\/([^/]+)/;

/** An address without its scheme; also without its host, where the whole column has the same one. */
const separate = (cell: string, severalHosts: boolean) => cell.replace(HOST, severalHosts ? "$1" : "…");

/** Columns whose addresses have several hosts. */
function columnsOfSeveralHosts(rows: string[][]): Set<number> {
  const hosts = new Map<number, Set<string>>();
  for (const row of rows)
    for (const [column, cell] of row.entries()) {
      const host = HOST.exec(cell)?.[1];
      if (host) hosts.set(column, (hosts.get(column) ?? new Set()).add(host));
    }
  return new Set([...hosts].filter(([, stored]) => stored.size > 1).map(([column]) => column));
}
