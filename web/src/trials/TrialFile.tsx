// One test: its question, progress, what may spoil it, its result, and what was really changed.
import { toast } from "sonner";
import { ask } from "../api/ask";
import { api, type Schemas } from "../api/client";
import { Changes } from "../drafts/VersionsPanel";
import { FigureTable } from "../shared/FigureTable";
import { count, day, moment, path } from "../shared/format";
import { PageLink } from "../shared/PageLink";
import { Part } from "../shared/Part";
import { Picture } from "../shared/Picture";
import { Button, Failed, MainButton, Notice } from "../shared/parts";
import { useAct } from "../shared/useAct";
import { Lots, WeeksOfTrial } from "./Lots";
import { DESIGNS, MEASURES } from "./words";

type Trial = Schemas["TrialShown"];

export function TrialFile({ site, id }: { site: Schemas["SiteShown"]; id: number }) {
  const params = { path: { slug: site.slug, trial_id: id } };
  const found = ask.useQuery("get", "/api/sites/{slug}/trials/{trial_id}", { params }, { staleTime: 30_000 });
  const act = useAct();
  if (found.error) return <Failed error={found.error} retry={() => found.refetch()} />;
  const trial = found.data;
  if (!trial) return <Notice title="Loading the trial">Loading its weeks.</Notice>;
  const read = () =>
    act(() => api.POST("/api/sites/{slug}/trials/{trial_id}/verdict", { params }), "The result is saved for good.");
  const drop = () =>
    act(
      () => api.DELETE("/api/sites/{slug}/trials/{trial_id}", { params }),
      () =>
        toast("Removed.", {
          action: {
            label: "Restore",
            onClick: () => act(() => api.POST("/api/sites/{slug}/trials/{trial_id}/restore", { params })),
          },
        }),
    );
  return (
    <article aria-label="Trial" className="px-5 py-3" data-testid="trial-file">
      <h2 className="text-xl leading-6">{trial.name}</h2>
      <p className="text-faint">
        {trial.kind_words}; {DESIGNS[trial.design]}; measured by {MEASURES[trial.measure]}
      </p>
      <p className="mt-2">{trial.change}</p>
      {trial.hope && <p className="text-faint">Goal: {trial.hope}</p>}
      <p className="mt-1">
        Changed on {day(trial.first_day)}; {count(trial.weeks)} weeks after it are compared with as many before, until{" "}
        {day(trial.until)}. {trial.by && `Started by ${trial.by}.`}
      </p>
      <p className="mt-1">{trial.visible}</p>
      <Standing trial={trial} may={site.may_change} read={read} />
      {trial.faults.map((one) => (
        <p key={one} className="mt-1 text-ochre">
          {one}
        </p>
      ))}
      {trial.worked && <p className="mt-1 text-faint">{trial.worked}</p>}
      {trial.weekly.length > 0 && (
        <Part title="Test pages and control pages" method="trials">
          <Picture name={`trial ${trial.name}`}>
            <WeeksOfTrial weeks={trial.weekly} firstDay={trial.first_day} />
          </Picture>
        </Part>
      )}
      {trial.texts.length > 0 && (
        <Part title="What was changed, by the last crawl">
          {trial.texts.map((one) => (
            <details key={one.page} className="mb-2">
              <summary>{path(one.page)}</summary>
              <Changes title="Title" parts={one.title} />
              <Changes title="Description" parts={one.description} />
              <Changes title="Text" parts={one.text} />
            </details>
          ))}
        </Part>
      )}
      <Units title={`Changed: ${count(trial.changed.length)}`} units={trial.changed} />
      {trial.unchanged.length > 0 && (
        <Units title={`Unchanged, drawn at random: ${count(trial.unchanged.length)}`} units={trial.unchanged} />
      )}
      {trial.design === "before-after" && <LeftOut site={site} trial={trial} />}
      {site.may_change && (
        <p className="mt-4 border-rule border-t pt-2">
          <Button plain onClick={drop}>
            Delete the trial
          </Button>
        </p>
      )}
    </article>
  );
}

function Standing({ trial, may, read }: { trial: Trial; may: boolean; read: () => void }) {
  if (trial.verdict)
    return (
      <div className="mt-3 border-ink border-y py-2">
        <p className="font-serif text-lg leading-snug">{trial.verdict.words}</p>
        <p className="text-faint text-xs">
          Compared with {count(trial.verdict.controls)} {trial.design === "randomised" ? "unchanged" : "controls"}
          {trial.read_at && `; concluded ${moment(trial.read_at)}`}.
        </p>
        <Picture name={`lots of ${trial.name}`}>
          <Lots verdict={trial.verdict} measure={trial.measure} />
        </Picture>
      </div>
    );
  if (trial.state === "ended")
    return (
      <div className="mt-3 border-ink border-y py-2">
        <p>The test has ended. Concluding is final: nothing can be excluded after that.</p>
        {may && (
          <p className="mt-2">
            <MainButton onClick={read}>Conclude the test</MainButton>
          </p>
        )}
      </div>
    );
  return (
    <p className="mt-3 border-rule border-y py-2 text-faint">
      {trial.waiting ?? `It starts on ${day(trial.first_day)}. No data yet.`}
    </p>
  );
}

function Units({ title, units }: { title: string; units: Schemas["TrialUnit"][] }) {
  return (
    <Part title={title}>
      <FigureTable
        rows={units}
        first={8}
        keyOf={(one) => `${one.page_id}-${one.query_id}`}
        columns={[
          { head: "page", cell: (one) => <PageLink address={one.page} /> },
          ...(units.some((one) => one.query)
            ? [{ head: "query", cell: (one: Schemas["TrialUnit"]) => one.query ?? "" }]
            : []),
        ]}
      />
    </Part>
  );
}

/** Control pages affected by something else; named with a reason. */
function LeftOut({ site, trial }: { site: Schemas["SiteShown"]; trial: Trial }) {
  const act = useAct();
  const params = { path: { slug: site.slug, trial_id: trial.id } };
  const set = (page: number, query: number | null, why: string) =>
    act(() => api.POST("/api/sites/{slug}/trials/{trial_id}/out", { params, body: { page, query, why } }));
  async function leave(form: HTMLFormElement) {
    const answer = new FormData(form);
    const found = await api
      .GET("/api/sites/{slug}/findings/pages", {
        params: { path: { slug: site.slug }, query: { text: String(answer.get("page")), limit: 1 } },
      })
      .catch(() => null);
    const page = found?.data?.rows[0];
    if (!page) return void toast.error("No page found. Type part of its address.");
    if (await set(page.page_id, null, String(answer.get("why")))) form.reset();
  }
  const fixed = trial.verdict !== null || !site.may_change;
  return (
    <Part title="Excluded control pages">
      <p className="text-faint">Pages with other moves or trials in these weeks are excluded automatically.</p>
      <ul>
        {trial.out.map((one) => (
          <li key={`${one.page_id}-${one.query_id}`}>
            {path(one.page)}: {one.why}{" "}
            {!fixed && (
              <Button plain onClick={() => set(one.page_id, one.query_id, "")}>
                Include again
              </Button>
            )}
          </li>
        ))}
      </ul>
      {!fixed && trial.changed[0]?.query_id == null && (
        <form
          className="mt-1 flex flex-wrap items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            leave(event.currentTarget);
          }}
        >
          <label className="grow">
            <span className="block text-faint text-xs">page</span>
            <input name="page" required className="w-full border border-strong-rule bg-sheet px-2 py-0.5" />
          </label>
          <label className="grow">
            <span className="block text-faint text-xs">why</span>
            <input
              name="why"
              required
              maxLength={2000}
              className="w-full border border-strong-rule bg-sheet px-2 py-0.5"
            />
          </label>
          <Button type="submit">Exclude</Button>
        </form>
      )}
    </Part>
  );
}
