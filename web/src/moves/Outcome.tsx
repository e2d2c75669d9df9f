// What came of a move, beside what nobody touched; and to keep it on record.
import { api, type Schemas } from "../api/client";
import { day, place, share } from "../shared/format";
import { Part } from "../shared/Part";
import { Button, EvidenceMark } from "../shared/parts";
import { useAct } from "../shared/useAct";
import type { Move } from "./words";

export function Outcome({ site, move }: { site: Schemas["SiteShown"]; move: Move }) {
  const act = useAct();
  const told = move.outcome;
  if (move.waiting)
    return (
      <Part title="What came of it" method="moves">
        <p className="text-faint">{move.waiting}</p>
      </Part>
    );
  if (!told) return null;
  const [before, after] = told.periods;
  const rows: [string, (one: Schemas["RatesShown"]) => string][] = [
    ["clicks a day", (one) => place(one.clicks_a_day)],
    ["CTR", (one) => share(one.ctr)],
    ["position", (one) => place(one.position)],
    ["shown a day", (one) => place(one.shown_a_day)],
  ];
  const sides = [told.before, told.after, told.untouched_before, told.untouched_after];
  return (
    <Part title="What came of it" method="moves">
      <div className="space-y-1 font-serif text-[15px] leading-snug">
        {told.sentences.map((sentence) => (
          <p key={sentence}>{sentence}</p>
        ))}
      </div>
      {told.lacking.length > 0 && <p className="text-ochre text-xs">{told.lacking.join(" ")}</p>}
      <table className="mt-2 w-full text-right">
        <thead className="text-faint text-xs">
          <tr>
            <th scope="col" className="text-left font-normal">
              <EvidenceMark grade={told.evidence} />
            </th>
            {["before", "after", "others before", "others after"].map((word) => (
              <th key={word} scope="col" className="font-normal">
                {word}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, written]) => (
            <tr key={name} className="border-rule border-t">
              <th scope="row" className="text-left font-normal">
                {name}
              </th>
              {sides.map((side, number) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: the four sides never change places
                <td key={number} className={number < 2 ? "" : "text-faint"}>
                  {written(side)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {before && after && (
        <p className="mt-1 text-faint text-xs">
          Before: {day(before.first)} to {day(before.last)}; after: {day(after.first)} to {day(after.last)}. Others: the
          mean of those that were not touched. Without brand.
        </p>
      )}
      {site.may_change && move.state === "done" && (
        <Button
          className="mt-2"
          onClick={() =>
            act(
              () =>
                api.POST("/api/sites/{slug}/moves/{move_id}/outcome", {
                  params: { path: { slug: site.slug, move_id: move.id } },
                }),
              "Kept on record: the move is measured.",
            )
          }
        >
          Keep it on record
        </Button>
      )}
    </Part>
  );
}
