// Breaks and cliffs of pages, with the events near them.
import { useState } from "react";
import { useFinding } from "../api/ask";
import type { Schemas } from "../api/client";
import { count, day, path, change as signed } from "../shared/format";
import { Method } from "../shared/Method";
import { Button, Failed } from "../shared/parts";
import type { Asked } from "../state/view";
import { Part } from "./Heading";
import { PointedPage } from "./PointedPages";

export function BreaksFound({ slug, asked }: { slug: string; asked: Asked }) {
  const { first: _, last: __, ...whole } = asked; // of all weeks
  const found = useFinding(slug, "breaks", whole, { sorted: { sort: "week", descending: true } });
  if (found.error) return <Failed error={found.error} retry={() => found.refetch()} />;
  if (!found.data) return null;
  const { cliffs, rows, sentences } = found.data;
  return (
    <Part title="Breaks and cliffs" aside={<Method name="breaks" />}>
      <p>{sentences[0]}</p>
      <ul className="mt-1 space-y-1">
        {cliffs
          .filter((one) => one.beyond_chance)
          .map((one) => (
            <li key={`${one.week}${one.fell}`}>
              <span className={one.fell ? "text-rust" : "text-spruce"}>{one.sentence}</span>
              <p className="text-faint text-xs">{one.pages.map(path).join(", ")}</p>
            </li>
          ))}
      </ul>
      <Breaks rows={rows} slug={slug} />
    </Part>
  );
}

const FIRST = 8;

function Breaks({ rows, slug }: { rows: Schemas["BreaksRow"][]; slug: string }) {
  const [all, setAll] = useState(false);
  if (rows.length === 0) return null;
  return (
    <>
      <table className="mt-2 w-full text-right">
        <thead className="text-faint text-xs">
          <tr>
            <th scope="col" className="text-left font-normal">
              page
            </th>
            {["from the week of", "clicks a week", "by"].map((word) => (
              <th key={word} scope="col" className="pl-2 font-normal">
                {word}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {(all ? rows : rows.slice(0, FIRST)).map((one) => (
            <tr key={`${one.page_id}${one.week}`} className="border-rule border-t align-top">
              <th scope="row" className="max-w-32 text-left font-normal">
                <PointedPage slug={slug} page={one.page_id ?? 0} address={one.page ?? ""} search={{}} />
                <span className="block truncate text-faint text-xs" title={one.event ?? undefined}>
                  {one.event ? `near “${one.event}”` : !one.season_known && "may be a season of its own"}
                </span>
              </th>
              <td className="whitespace-nowrap pl-2">{day(one.week)}</td>
              <td className="whitespace-nowrap pl-2">
                {count(one.before)} → {count(one.after)}
              </td>
              <td className={`whitespace-nowrap pl-2 ${one.size < 0 ? "text-rust" : "text-spruce"}`}>
                {signed(one.size * 100)} %
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length > FIRST && (
        <Button plain className="mt-1" onClick={() => setAll(!all)}>
          {all ? "Fewer" : `All ${rows.length}`}
        </Button>
      )}
    </>
  );
}
