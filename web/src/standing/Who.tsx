// Who made the change: pages down, pages up, those that earn against those that inform.
import type { Schemas } from "../api/client";
import { count, change as signed } from "../shared/format";
import { Method } from "../shared/Method";
import type { View } from "../state/view";
import { Part } from "./Heading";
import { PointedPage } from "./PointedPages";

type Told = Schemas["Standing"];
const ROLES: Record<string, string> = { earns: "pages that earn", informs: "pages that inform" };

export function Who({ told, slug, search }: { told: Told; slug: string; search: View }) {
  if (!told.change) return null;
  return (
    <Part title="Who made the change" aside={<Method name="landing-pages" />}>
      <div className="grid gap-x-5 sm:grid-cols-2">
        <Movers title="Down" rows={told.down} slug={slug} search={search} />
        <Movers title="Up" rows={told.up} slug={slug} search={search} />
      </div>
      <table className="mt-2 w-full text-right">
        <thead className="text-faint text-xs">
          <tr>
            <th scope="col" className="text-left font-normal">
              earning and informing
            </th>
            {["pages", "then", "now", "change"].map((word) => (
              <th key={word} scope="col" className="font-normal">
                {word}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {told.by_role.map((one) => (
            <tr key={String(one.role)} className="border-rule border-t">
              <th scope="row" className="text-left font-normal">
                {ROLES[one.role ?? ""] ?? "too few visits to say"}
              </th>
              <td>{count(one.pages)}</td>
              <td>{count(one.clicks_before)}</td>
              <td>{count(one.clicks_after)}</td>
              <td className={one.by < 0 ? "text-rust" : "text-spruce"}>{signed(one.by)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Part>
  );
}

type MoversProps = { title: string; rows: Schemas["Mover"][]; slug: string; search: View };

function Movers({ title, rows, slug, search }: MoversProps) {
  const most = Math.max(...rows.map((row) => Math.abs(row.by)), 1);
  return (
    <div>
      <h3 className="text-faint text-xs">{title}</h3>
      {rows.length === 0 && <p className="text-faint text-xs">No page by a click or more.</p>}
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
