import { useState } from "react";
import type { Schemas } from "../api/client";
import { count, day } from "../shared/format";
import { Button, MainButton } from "../shared/parts";

const SAYS: Record<string, string> = {
  day: "day",
  page: "page",
  query: "query",
  clicks: "clicks",
  impressions: "impressions",
  position: "position",
  ctr: "CTR (only to check)",
};

type Props = {
  uploaded: Schemas["Uploaded"];
  site: Schemas["SiteShown"];
  load: (mapping: Record<string, number>, days: "replace" | "add", keep: boolean) => void;
  drop: () => void;
};

/** The columns as they were recognised, above the first rows; each can be said anew. */
export function Matching({ uploaded, site, load, drop }: Props) {
  const [mapping, setMapping] = useState(uploaded.mapping);
  const [days, setDays] = useState<"replace" | "add">("replace");
  const [keep, setKeep] = useState(false);
  const missing = uploaded.required.filter((field) => mapping[field] === undefined);
  const fieldOf = (column: number) => uploaded.fields.find((field) => mapping[field] === column) ?? "";

  function assign(column: number, field: string) {
    const rest = Object.entries(mapping).filter(([name, index]) => index !== column && name !== field);
    setMapping({ ...Object.fromEntries(rest), ...(field && { [field]: column }) });
  }

  return (
    <section className="mt-5" aria-label="Columns">
      <h2 className="text-lg">{uploaded.name}</h2>
      <p className="text-faint">
        About {count(uploaded.rows_about)} rows. Look whether each column is taken for what it is.
      </p>
      <div className="mt-2 overflow-x-auto">
        <table className="w-full border-ink border-y text-left">
          <thead>
            <tr>
              {uploaded.header.map((name, column) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: names may repeat; the place tells columns apart
                <th key={column} scope="col" className="border-rule border-b px-1.5 py-1.5 font-normal">
                  <label>
                    <span className="block font-semibold">{name || `column ${column + 1}`}</span>
                    <select
                      aria-label={name || `column ${column + 1}`}
                      value={fieldOf(column)}
                      onChange={(event) => assign(column, event.target.value)}
                      className={`w-28 border border-strong-rule bg-sheet px-1 py-0.5 ${fieldOf(column) ? "" : "text-faint"}`}
                    >
                      <option value="">not used</option>
                      {uploaded.fields.map((field) => (
                        <option key={field} value={field}>
                          {SAYS[field] ?? field}
                        </option>
                      ))}
                    </select>
                  </label>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {uploaded.first_rows.map((row, number) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: rows of a file have no other name
              <tr key={number} className="border-rule border-b last:border-0">
                {row.map((cell, column) => (
                  <td
                    // biome-ignore lint/suspicious/noArrayIndexKey: as above
                    key={column}
                    title={cell}
                    className={`max-w-40 truncate px-1.5 py-1 ${fieldOf(column) ? "" : "text-faint"}`}
                  >
                    {cell}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {missing.length > 0 && (
        <p role="status" className="mt-2 text-rust">
          No column is chosen for {missing.map((field) => SAYS[field] ?? field).join(", ")}. Choose one above.
        </p>
      )}
      <fieldset className="mt-3 space-y-1">
        <legend className="sr-only">What the file is</legend>
        <label className="flex min-h-6 items-center gap-2">
          <input type="radio" name="days" checked={days === "replace"} onChange={() => setDays("replace")} />
          The file holds its days whole: they replace what stands on those days.
        </label>
        <label className="flex min-h-6 items-center gap-2">
          <input type="radio" name="days" checked={days === "add"} onChange={() => setDays("add")} />
          The file is a slice: keep the other rows of its days.
        </label>
        <label className="flex min-h-6 items-center gap-2">
          <input type="checkbox" checked={keep} onChange={() => setKeep(!keep)} />
          Keep good rows: should some be refused, load the rest and list the refused ones.
        </label>
      </fieldset>
      <div className="mt-3 flex items-center gap-3">
        <MainButton disabled={missing.length > 0} onClick={() => load(mapping, days, keep)}>
          Load into {site.name}
        </MainButton>
        <Button onClick={drop}>Not this file</Button>
        {site.last_day && <span className="text-faint">Data reach to {day(site.last_day)} now.</span>}
      </div>
    </section>
  );
}
