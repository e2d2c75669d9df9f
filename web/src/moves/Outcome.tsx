// The result of a move, compared with control pages; and a button to save it.
import { api, type Schemas } from "../api/client";
import { EvidenceMark } from "../shared/EvidenceMark";
import { FigureTable } from "../shared/FigureTable";
import { day, place, share } from "../shared/format";
import { Part } from "../shared/Part";
import { Button } from "../shared/parts";
import { useAct } from "../shared/useAct";
import type { Move } from "./words";

type Rates = Schemas["RatesShown"];
type Line = [string, (one: Rates) => string];

export function Outcome({ site, move }: { site: Schemas["SiteShown"]; move: Move }) {
  const act = useAct();
  const answer = move.outcome;
  if (move.waiting)
    return (
      <Part title="Result" method="moves">
        <p className="text-faint">{move.waiting}</p>
      </Part>
    );
  if (!answer) return null;
  const [before, after] = answer.periods;
  const rows: Line[] = [
    ["clicks a day", (one) => place(one.clicks_a_day)],
    ["CTR", (one) => share(one.ctr)],
    ["position", (one) => place(one.position)],
    ["impressions a day", (one) => place(one.shown_a_day)],
  ];
  const sides = [answer.before, answer.after, answer.controls_before, answer.controls_after];
  return (
    <Part title="Result" method="moves">
      <div className="space-y-1 font-serif text-lead">
        {answer.sentences.map((sentence) => (
          <p key={sentence}>{sentence}</p>
        ))}
      </div>
      {answer.lacking.length > 0 && <p className="text-ochre text-xs">{answer.lacking.join(" ")}</p>}
      <FigureTable
        className="mt-2"
        rows={rows}
        keyOf={([name]) => name}
        columns={[
          { head: <EvidenceMark grade={answer.evidence} />, cell: ([name]) => name },
          ...["before", "after", "controls before", "controls after"].map((head, at) => ({
            head,
            cell: ([, written]: Line) => written(sides[at] as Rates),
            look: at < 2 ? "" : "text-faint",
          })),
        ]}
      />
      {before && after && (
        <p className="mt-1 text-faint text-xs">
          Before: {day(before.first)} to {day(before.last)}; after: {day(after.first)} to {day(after.last)}. Controls:
          the mean of unchanged ones. Without brand.
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
              "Saved: the move is measured.",
            )
          }
        >
          Save the result
        </Button>
      )}
    </Part>
  );
}
