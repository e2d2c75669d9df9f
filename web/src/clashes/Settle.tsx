// Choose the lead, choose what to do, write why; or take back what was decided.
import { type FormEvent, useState } from "react";
import { api, type Schemas } from "../api/client";
import { day, path } from "../shared/format";
import { Button, MainButton } from "../shared/parts";
import { useAct } from "../shared/useAct";

const RESOLUTIONS: Record<Schemas["ClashShown"]["resolution"], string> = {
  unite: "unite: merge the others into the lead",
  point: "point: canonical links to the lead",
  refocus: "refocus: reword the others",
  feed: "feed: link to the lead from the others",
  retire: "retire: take the others out of the index",
  accept: "accept: leave it as it is",
};

type Props = {
  slug: string;
  clash: Schemas["ClashShown"];
  alike: Schemas["ClashBetween"][]; // other clashes between the same pages
  mayChange: boolean;
};

export function Settle({ slug, clash, alike, mayChange }: Props) {
  const act = useAct();
  const [busy, setBusy] = useState(false);

  async function send(request: () => Promise<{ data?: unknown }>, done: string) {
    setBusy(true);
    await act(request, done);
    setBusy(false);
  }

  const held = clash.decision;
  if (held)
    return (
      <div>
        <p>
          Decided on {day(held.decided_on)}
          {held.by && ` by ${held.by}`}: <strong>{held.choice}</strong>
          {held.lead_id && `, led by ${path(clash.contenders.find((one) => one.page_id === held.lead_id)?.page ?? "")}`}
          . {held.sentence}
        </p>
        {held.note && <p className="text-faint">{held.note}</p>}
        {mayChange && (
          <Button
            className="mt-1"
            disabled={busy}
            onClick={() =>
              send(
                () =>
                  api.DELETE("/api/sites/{slug}/decisions/{decision_id}", {
                    params: { path: { slug, decision_id: held.id } },
                  }),
                "Taken back: the clash is open again.",
              )
            }
          >
            Take it back
          </Button>
        )}
      </div>
    );
  if (!mayChange) return <p className="text-faint">Not decided yet. You may look, not decide.</p>;

  function settle(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const body = {
      subjects: [clash, ...(form.get("alike") ? alike : [])].map((one) => ({ query: one.query_id })),
      choice: String(form.get("choice")),
      lead: Number(form.get("lead")),
      note: String(form.get("note") ?? ""),
    };
    send(
      () => api.POST("/api/sites/{slug}/decisions", { params: { path: { slug } }, body }),
      "Kept. Later periods will tell whether it is still contested.",
    );
  }
  return (
    <form onSubmit={settle} key={clash.query_id} className="space-y-2">
      <label className="block">
        <span className="block text-faint">who should lead</span>
        <select
          name="lead"
          defaultValue={clash.lead_id}
          className="w-full border border-strong-rule bg-sheet px-2 py-1"
        >
          {clash.contenders.map((one) => (
            <option key={one.page_id} value={one.page_id}>
              {path(one.page)}
              {one.page_id === clash.lead_id ? " (proposed)" : ""}
            </option>
          ))}
        </select>
      </label>
      <label className="block">
        <span className="block text-faint">what to do</span>
        <select
          name="choice"
          defaultValue={clash.resolution}
          className="w-full border border-strong-rule bg-sheet px-2 py-1"
        >
          {Object.entries(RESOLUTIONS).map(([name, words]) => (
            <option key={name} value={name}>
              {words}
              {name === clash.resolution ? " (proposed)" : ""}
            </option>
          ))}
        </select>
      </label>
      <label className="block">
        <span className="block text-faint">why</span>
        <textarea
          name="note"
          rows={2}
          maxLength={5000}
          className="w-full border border-strong-rule bg-sheet px-2 py-1"
        />
      </label>
      {alike.length > 0 && (
        <label className="flex items-start gap-1.5">
          <input type="checkbox" name="alike" />
          <span>
            settle {alike.length === 1 ? "the other clash" : `all ${alike.length} other clashes`} between these pages
            too: <span className="text-faint">{alike.map((one) => one.query).join(", ")}</span>
          </span>
        </label>
      )}
      <MainButton type="submit" disabled={busy}>
        Decide
      </MainButton>
    </form>
  );
}
