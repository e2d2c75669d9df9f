// Choose the lead and what to do, give a reason, assign someone; or undo a decision. It is saved as a move, and later periods
// show whether the clash is settled.
import { type FormEvent, useState } from "react";
import { toast } from "sonner";
import { api, type Schemas } from "../api/client";
import { HowAndWho } from "../moves/MakeMove";
import { useTakeBack } from "../moves/useTakeBack";
import { day, path } from "../shared/format";
import { Button, Choice, MainButton, Words } from "../shared/parts";
import { useAct } from "../shared/useAct";
import type { ViewOptions } from "../state/view";

type Resolution = Schemas["ClashesRow"]["resolution"];
const RESOLUTIONS: Record<Resolution, string> = {
  unite: "unite: merge the others into the lead",
  point: "point: canonical links to the lead",
  refocus: "refocus: reword the other pages",
  feed: "feed: link to the lead from the other pages",
  retire: "retire: remove the other pages from the index",
  accept: "accept: leave it unchanged",
};

type Props = {
  site: Schemas["SiteShown"];
  clash: Schemas["ClashesRow"];
  alike: Schemas["ClashBetween"][]; // other clashes between the same pages
  options: ViewOptions;
};

export function Settle({ site, clash, alike, options }: Props) {
  if (clash.decision) return <Settled slug={site.slug} clash={clash} mayChange={site.may_change} />;
  if (!site.may_change) return <p className="text-faint">Not decided yet. Readers cannot decide.</p>;
  return (
    <SettleForm
      key={clash.query_id}
      site={site}
      queries={[clash.query_id]}
      pages={clash.contenders.map((one) => ({ id: one.page_id, name: path(one.page) }))}
      lead={clash.lead_id}
      resolution={clash.resolution}
      alike={alike}
      options={options}
    />
  );
}

function Settled({ slug, clash, mayChange }: { slug: string; clash: Schemas["ClashesRow"]; mayChange: boolean }) {
  const takeBack = useTakeBack(slug);
  const stored = clash.decision;
  if (!stored) return null;
  return (
    <div>
      <p>
        Decided on {day(stored.decided_on)}
        {stored.by && ` by ${stored.by}`}: <strong>{stored.choice}</strong>
        {stored.lead && `, led by ${path(stored.lead)}`}. {stored.sentence}
      </p>
      {stored.note && <p className="text-faint">{stored.note}</p>}
      {mayChange && (
        <Button
          className="mt-1"
          onClick={() =>
            takeBack
              .decisions([stored])
              .then((done) => done && toast("The clash is open again. Its move was removed, unless work had begun."))
          }
        >
          Reopen
        </Button>
      )}
    </div>
  );
}

type FormProps = {
  site: Schemas["SiteShown"];
  queries: number[];
  pages: { id: number; name: string }[];
  lead: number;
  resolution: Resolution;
  alike?: Schemas["ClashBetween"][];
  options: ViewOptions;
  done?: () => void;
};

export function SettleForm({ site, queries, pages, lead, resolution, alike = [], options, done }: FormProps) {
  const act = useAct();
  const takeBack = useTakeBack(site.slug);
  const [busy, setBusy] = useState(false);
  const [choice, setChoice] = useState<Resolution>(resolution);
  const path = { slug: site.slug };
  async function settle(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = Object.fromEntries(new FormData(event.currentTarget)) as Record<string, string>;
    const body = {
      queries: [...queries, ...(form.alike ? alike.map((one) => one.query_id) : [])],
      choice,
      lead: Number(form.lead),
      note: form.note ?? "",
      effort: (form.effort || null) as Schemas["SettledInput"]["effort"],
      who: form.who || null,
      due: form.due || null,
    };
    setBusy(true);
    const saved = await act(
      () => api.POST("/api/sites/{slug}/clashes/settle", { params: { path, query: options }, body }),
      (made) =>
        toast(
          `${made.length > 1 ? `${made.length} clashes are decided` : "Decided"}${choice === "accept" ? "." : ", and added to Moves."}`,
          { action: { label: "Undo", onClick: () => takeBack.decisions(made) } },
        ),
    );
    setBusy(false);
    if (saved) done?.();
  }

  return (
    <form onSubmit={settle} className="space-y-2">
      <Choice label="who should lead" name="lead" defaultValue={lead}>
        {pages.map((one) => (
          <option key={one.id} value={one.id}>
            {one.name}
            {one.id === lead ? " (proposed)" : ""}
          </option>
        ))}
      </Choice>
      <Choice label="what to do" value={choice} onChange={(event) => setChoice(event.target.value as Resolution)}>
        {Object.entries(RESOLUTIONS).map(([name, words]) => (
          <option key={name} value={name}>
            {words}
            {name === resolution ? " (proposed)" : ""}
          </option>
        ))}
      </Choice>
      {choice !== "accept" && <HowAndWho slug={site.slug} effort={null} />}
      <Words label="why" name="note" rows={2} />
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
