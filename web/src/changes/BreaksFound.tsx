// Breaks and cliffs of pages, with nearby events.

import { type Row, useFinding } from "../api/ask";
import { FigureTable } from "../shared/FigureTable";
import { count, day, path, change as signed } from "../shared/format";
import { Meaning } from "../shared/Hint";
import { Method } from "../shared/Method";
import { Failed } from "../shared/parts";
import type { ViewOptions } from "../state/view";
import { Part } from "./Heading";
import { PointedPage } from "./PointedPages";

export function BreaksFound({ slug, options }: { slug: string; options: ViewOptions }) {
  const { first: _, last: __, ...whole } = options; // of all weeks
  const found = useFinding(slug, "breaks", whole, { sorted: { sort: "week", descending: true } });
  if (found.error) return <Failed error={found.error} retry={() => found.refetch()} />;
  if (!found.data) return null;
  const { cliffs, rows, sentences } = found.data;
  return (
    <Part
      title={
        <>
          <Meaning of="breaks">Breaks</Meaning> and <Meaning of="cliff">cliffs</Meaning>
        </>
      }
      aside={<Method name="breaks" />}
    >
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

function Breaks({ rows, slug }: { rows: Row<"breaks">[]; slug: string }) {
  if (rows.length === 0) return null;
  return (
    <FigureTable
      className="mt-2"
      first={8}
      rows={rows}
      keyOf={(one) => `${one.page_id}${one.week}`}
      columns={[
        {
          head: "page",
          look: "max-w-32",
          cell: (one) => (
            <>
              <PointedPage slug={slug} page={one.page_id ?? 0} address={one.page ?? ""} search={{}} />
              <span className="block truncate text-faint text-xs" title={one.event ?? undefined}>
                {one.event ? `near “${one.event}”` : !one.season_known && "may be seasonal"}
              </span>
            </>
          ),
        },
        { head: "from the week of", look: "whitespace-nowrap", cell: (one) => day(one.week) },
        {
          head: "clicks a week",
          look: "whitespace-nowrap",
          cell: (one) => `${count(one.before)} → ${count(one.after)}`,
        },
        {
          head: "by",
          look: (one) => `whitespace-nowrap ${one.size < 0 ? "text-rust" : "text-spruce"}`,
          cell: (one) => `${signed(one.size * 100)} %`,
        },
      ]}
    />
  );
}
