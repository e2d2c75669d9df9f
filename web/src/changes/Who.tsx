// Which pages caused the change: falling, rising, and earning compared with informing pages.
import type { Schemas } from "../api/client";
import { FigureTable } from "../shared/FigureTable";
import { count, change as signed } from "../shared/format";
import { Method } from "../shared/Method";
import type { View } from "../state/view";
import { Part } from "./Heading";
import { PointedPage } from "./PointedPages";

type Details = Schemas["Changes"];
const ROLES: Record<string, string> = { earns: "pages that earn", informs: "pages that inform" };

export function Who({ answer, slug, search }: { answer: Details; slug: string; search: View }) {
  if (!answer.change) return null;
  return (
    <Part title="Who made the change" aside={<Method name="landing-pages" />}>
      <div className="grid gap-x-5 sm:grid-cols-2">
        <Movers title="Down" rows={answer.down} slug={slug} search={search} />
        <Movers title="Up" rows={answer.up} slug={slug} search={search} />
      </div>
      <FigureTable
        className="mt-2"
        rows={answer.by_role}
        keyOf={(one) => String(one.role)}
        columns={[
          { head: "earning and informing", cell: (one) => ROLES[one.role ?? ""] ?? "too little data" },
          { head: "pages", cell: (one) => count(one.pages) },
          { head: "before", cell: (one) => count(one.clicks_before) },
          { head: "now", cell: (one) => count(one.clicks_after) },
          {
            head: "change",
            look: (one) => (one.by < 0 ? "text-rust" : "text-spruce"),
            cell: (one) => signed(one.by),
          },
        ]}
      />
    </Part>
  );
}

type MoversProps = { title: string; rows: Schemas["Mover"][]; slug: string; search: View };

function Movers({ title, rows, slug, search }: MoversProps) {
  const most = Math.max(...rows.map((row) => Math.abs(row.by)), 1);
  return (
    <div>
      <h3 className="text-faint text-xs">{title}</h3>
      {rows.length === 0 && <p className="text-faint text-xs">No page changed by a click or more.</p>}
      <ol>
        {rows.map((row) => (
          <li key={row.page_id} className="border-rule border-b pb-0.5">
            <div className="flex items-baseline gap-2">
              <PointedPage
                slug={slug}
                page={row.page_id}
                address={row.page}
                search={search}
                aside={row.role === "informs" && <span className="ml-auto text-faint text-xs">informs</span>}
              />
              <span className={row.by < 0 ? "text-rust" : "text-spruce"}>{signed(row.by)}</span>
            </div>
            <div className="flex h-1" aria-hidden="true">
              <div
                className={row.by < 0 ? "bg-rust" : "bg-spruce"}
                style={{ width: `${(Math.abs(row.by) / most) * 100}%` }}
              />
            </div>
          </li>
        ))}
      </ol>
    </div>
  );
}
