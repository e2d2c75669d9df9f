// A move's history; each change can be reverted.
import { api, type Schemas } from "../api/client";
import { day } from "../shared/format";
import { Part } from "../shared/Part";
import { Button } from "../shared/parts";
import { useAct } from "../shared/useAct";
import type { Move } from "./words";

function shown(one: Schemas["HistoryShown"], value: string | null): string {
  if (!value) return "nothing";
  return ["due", "made_on", "recrawl_on"].includes(one.field) ? day(value) : `“${value}”`;
}

export function History({ site, move }: { site: Schemas["SiteShown"]; move: Move }) {
  const act = useAct();
  return (
    <Part title="History">
      <ol className="space-y-1 text-xs">
        {move.history.map((one) => (
          <li key={`${one.version}${one.field}`} className="flex items-baseline gap-x-2">
            <span className="w-20 shrink-0 text-faint">{day(one.at.slice(0, 10))}</span>
            <span className="min-w-0 flex-1 break-words">
              {one.by ?? "someone"}: {one.words} from {shown(one, one.before)} to {shown(one, one.after)}
            </span>
            {site.may_change && (
              <Button
                plain
                aria-label={`Restore ${one.words}: ${one.before || "nothing"}`}
                onClick={() =>
                  act(() =>
                    api.PATCH("/api/sites/{slug}/moves/{move_id}", {
                      params: { path: { slug: site.slug, move_id: move.id } },
                      body: { seen: move.version, [one.field]: one.before },
                    }),
                  )
                }
              >
                Restore
              </Button>
            )}
          </li>
        ))}
        <li className="flex gap-x-2">
          <span className="w-20 shrink-0 text-faint">{day(move.made_at.slice(0, 10))}</span>
          <span>made by {move.by ?? "someone"}</span>
        </li>
      </ol>
    </Part>
  );
}
