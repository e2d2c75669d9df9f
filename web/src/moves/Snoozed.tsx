// Dismissed and snoozed subjects without a move, below the moves; each can be undone.
import { toast } from "sonner";
import { ask, ofSite } from "../api/ask";
import type { Schemas } from "../api/client";
import { day, path } from "../shared/format";
import { Button } from "../shared/parts";
import { useTakeBack } from "./useTakeBack";

const WORDS: Record<string, string> = { dismiss: "dismissed", snooze: "snoozed", accept: "left unchanged" };
const about = (one: Schemas["DecisionShown"]) =>
  [one.query && `“${one.query}”`, one.page && path(one.page)].filter(Boolean).join(" on ");

export function Snoozed({ slug, mayChange }: { slug: string; mayChange: boolean }) {
  const takeBack = useTakeBack(slug);
  const decisions = ask.useQuery("get", "/api/sites/{slug}/decisions", ofSite(slug));
  const alone = decisions.data?.filter((one) => one.move === null) ?? [];
  return (
    <details className="max-h-64 shrink-0 overflow-auto border-rule border-t px-4 py-2">
      <summary>
        {alone.length === 0
          ? "Nothing is dismissed or snoozed"
          : `${alone.length} ${alone.length === 1 ? "row" : "rows"} dismissed or snoozed`}
      </summary>
      <ul className="mt-1">
        {alone.map((one) => (
          <li key={one.id} className="flex items-baseline gap-x-3 border-rule border-t py-0.5">
            <span className="w-24 shrink-0">{WORDS[one.choice] ?? one.choice}</span>
            <span className="min-w-0 flex-1">
              {about(one)}
              <span className="block text-faint text-xs">
                {day(one.decided_on)}
                {one.by && `, ${one.by}`}
                {one.until && `, until ${day(one.until)}`}
                {one.note && `: ${one.note}`}
              </span>
            </span>
            {mayChange && (
              <Button
                plain
                aria-label={`Reopen: ${WORDS[one.choice] ?? one.choice}, ${about(one)}`}
                onClick={() => takeBack.decisions([one]).then((done) => done && toast("Restored."))}
              >
                Reopen
              </Button>
            )}
          </li>
        ))}
      </ul>
    </details>
  );
}
