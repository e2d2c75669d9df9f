import { type ReactNode, useState } from "react";
import { toast } from "sonner";
import { api, type ProblemError, type Schemas, values } from "../api/client";
import { day } from "../shared/format";
import { Button, MainButton } from "../shared/parts";
import type { Chosen } from "./chosen";
import { fieldWord, type Source } from "./names";
import { TableMatching } from "./TableMatching";

type Table = Schemas["TableSeen"];
export type LoadRequest = Omit<Schemas["LoadRequest"], "upload">;

type Props = {
  slug: string;
  uploaded: Schemas["Uploaded"];
  site: Schemas["SiteShown"];
  load: (options: LoadRequest) => void;
  drop: () => void;
  children: ReactNode;
};

const asSeen = (table: Table): Chosen => ({
  source: table.source,
  mapping: table.mapping,
  choices: { any_host: false },
  skip: false,
});

/** The suggested source of each table of a file, above its first rows; everything can be changed, previewed and loaded. */
export function Matching({ slug, uploaded, site, load, drop, children }: Props) {
  const { tables, chosen, change, lookAgain } = useTables(slug, uploaded);
  const [mode, setMode] = useState<"replace" | "add" | null>(null);
  const [keep, setKeep] = useState(false);
  const used = tables
    .map((table, number) => ({ table, choice: chosen[number] as Chosen }))
    .filter(({ table, choice }) => !choice.skip && !table.refused);
  const lacking = used.filter(({ table, choice }) => missing(table, choice).length > 0 || table.ambiguous_days);
  const unspanned = used.filter(({ table, choice }) => lacksSpan(table, choice));
  const strange = tables.flatMap((table, number) => {
    const host = otherHost(table, chosen[number] as Chosen, site.address);
    return host ? [{ number, host }] : [];
  });
  const several = tables.length > 1;
  // With several tables, those without a needed column are skipped, with a message; a single one must have them.
  const ready =
    used.length - (several ? lacking.length : 0) > 0 && (several || lacking.length === 0) && unspanned.length === 0;

  const options = (dry_run: boolean): LoadRequest => ({
    tables: Object.fromEntries(chosen.map((one, at) => [String(at), one])),
    mode,
    keep_good_rows: keep,
    dry_run,
  });

  return (
    <section className="mt-4 border-ink border-y py-3" aria-label="Columns">
      {tables.map((table, number) => (
        <TableMatching
          // biome-ignore lint/suspicious/noArrayIndexKey: two files of an archive may have one name
          key={number}
          table={table}
          chosen={chosen[number] as Chosen}
          several={several}
          encodings={uploaded.encodings}
          change={(part) => change(number, part)}
          lookAgain={(source, choices) => lookAgain(number, source, choices)}
        />
      ))}
      <Lacks lacking={lacking} unspanned={unspanned} several={several} />
      <fieldset className="mt-3 flex flex-wrap gap-x-6 gap-y-1">
        <legend className="sr-only">Contents of the file</legend>
        {site.last_day && (
          <>
            <label className="flex min-h-6 items-center gap-2">
              <input type="radio" name="mode" checked={mode === "replace"} onChange={() => setMode("replace")} />
              It replaces these days completely
            </label>
            <label className="flex min-h-6 items-center gap-2">
              <input type="radio" name="mode" checked={mode === "add"} onChange={() => setMode("add")} />
              It adds to these days; other rows stay
            </label>
          </>
        )}
        {strange.map(({ number, host }) => (
          <label key={number} className="flex min-h-6 items-center gap-2">
            <input
              type="checkbox"
              checked={chosen[number]?.choices.any_host ?? false}
              onChange={(event) =>
                change(number, { choices: { ...(chosen[number] as Chosen).choices, any_host: event.target.checked } })
              }
            />
            Pages of {host} belong to this site
          </label>
        ))}
        <label className="flex min-h-6 items-center gap-2">
          <input type="checkbox" checked={keep} onChange={() => setKeep(!keep)} />
          Load good rows even if some are refused, and list those
        </label>
      </fieldset>
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <MainButton disabled={!ready} onClick={() => load(options(false))}>
          Load into {site.name}
        </MainButton>
        <Button disabled={!ready} onClick={() => load(options(true))}>
          Preview the changes
        </Button>
        <Button onClick={drop}>Discard this file</Button>
        {site.last_day && <span className="text-faint">Search data until {day(site.last_day)} now.</span>}
      </div>
      {children}
    </section>
  );
}

/** The tables of a file as read, with what is chosen for each. */
function useTables(slug: string, uploaded: Schemas["Uploaded"]) {
  const [tables, setTables] = useState(uploaded.tables);
  const [chosen, setChosen] = useState<Chosen[]>(() => uploaded.tables.map(asSeen));

  /** Read the file again with other choices for one of its tables. */
  async function lookAgain(number: number, source: Source, choices: Schemas["ChoicesMade"]) {
    const options = chosen.map((one, at) => ({
      source: at === number ? source : one.source,
      mapping: at === number ? null : one.mapping,
      choices: at === number ? choices : one.choices,
      skip: one.skip,
    }));
    try {
      const body = { tables: Object.fromEntries(options.map((one, at) => [String(at), one])) };
      const path = { slug, key: uploaded.upload };
      const seen = values(await api.POST("/api/sites/{slug}/uploads/{key}/preview", { params: { path }, body }));
      setTables(seen.tables);
      setChosen(
        seen.tables.map((table, at) => ({
          source: table.source,
          mapping: table.mapping,
          choices: options[at]?.choices ?? choices,
          skip: options[at]?.skip ?? false,
        })),
      );
    } catch (error) {
      const { problem } = error as ProblemError;
      toast.error([problem.detail, ...problem.problems.map((one) => `${one.message}. ${one.remedy}`)].join(" "));
    }
  }

  const change = (number: number, part: Partial<Chosen>) =>
    setChosen((now) => now.map((one, at) => (at === number ? { ...one, ...part } : one)));
  return { tables, chosen, change, lookAgain };
}

type Used = { table: Table; choice: Chosen };

/** What still keeps tables from being loaded. */
function Lacks({ lacking, unspanned, several }: { lacking: Used[]; unspanned: Used[]; several: boolean }) {
  return (
    <>
      {lacking.map(({ table, choice }) => (
        <p key={table.name} role="status" className="mt-2 text-rust">
          {several && `${table.name}: `}
          {table.ambiguous_days
            ? "The dates can be read day first or month first. Choose above."
            : `No column is chosen for ${missing(table, choice)
                .map((name) => fieldWord(choice.source, name))
                .join(", ")}. Choose one above${several ? ", or it is passed over" : ""}.`}
        </p>
      ))}
      {unspanned.length > 0 && (
        <p role="status" className="mt-2 text-rust">
          Enter the first and last day of {unspanned.map(({ table }) => table.name).join(", ")} above.
        </p>
      )}
    </>
  );
}

/** The host of a table's first pages where it differs from the site's. */
function otherHost(table: Table, chosen: Chosen, address: string): string | null {
  const column = chosen.mapping.page;
  if (column === undefined || !["search", "visits"].includes(chosen.source)) return null;
  const bare = (text: string) => (URL.canParse(text) ? new URL(text).hostname.replace(/^www\./, "") : "");
  const own = bare(address);
  const others = table.first_rows.map((row) => bare(row[column] ?? "")).filter((host) => host && !host.endsWith(own));
  return others.length * 2 > table.first_rows.length ? (others[0] ?? null) : null;
}

const lacksSpan = (table: Table, chosen: Chosen) => {
  const span = chosen.choices.span ?? table.span;
  return table.needs_span && chosen.mapping.day === undefined && !(span?.first && span.last && span.first <= span.last);
};

function missing(table: Table, chosen: Chosen): string[] {
  return table.fields
    .filter((field) => field.required && chosen.mapping[field.name] === undefined)
    .map((field) => field.name);
}
