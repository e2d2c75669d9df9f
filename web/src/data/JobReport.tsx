import { useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useEffect } from "react";
import { toast } from "sonner";
import { api, type ProblemError, type Schemas, values } from "../api/client";
import { download } from "../shared/export";
import { count, many, plural, timeOfDay } from "../shared/format";
import { Button, Failed } from "../shared/parts";
import { useJob } from "./hooks";

import { answered, LoadWords, type Outcome, Problems } from "./LoadWords";
import { SOURCES } from "./names";

// Reading files: refused once, they are refused again.
const OF_A_FILE: Partial<Record<Schemas["JobShown"]["kind"], string>> = {
  load: "Load it again",
  archive: "Import again",
};

/** A background job: its progress, then its result or why it was refused. */
export function JobReport({ slug, id, mayChange }: { slug: string; id: number; mayChange: boolean }) {
  const queryClient = useQueryClient();
  const job = useJob(slug, id);
  const state = job.data?.state;

  const navigate = useNavigate();

  async function again(keep_good_rows: boolean) {
    try {
      const params = { path: { slug, job_id: id } };
      const options = values(
        await api.POST("/api/sites/{slug}/jobs/{job_id}/again", { params, body: { keep_good_rows } }),
      );
      navigate({ to: "/$site/data", params: { site: slug }, search: { job: options.id } });
    } catch (error) {
      const { problem } = error as ProblemError;
      toast.error(`${problem.detail} ${problem.remedy}`);
    }
  }

  useEffect(() => {
    if (state) queryClient.invalidateQueries({ queryKey: ["get", "/api/sites/{slug}/jobs"] });
    // Any data of the site may have changed.
    const separate = (path: unknown) => /jobs|session|methods/.test(String(path));
    if (state === "done") queryClient.invalidateQueries({ predicate: ({ queryKey }) => !separate(queryKey[1]) });
  }, [state, queryClient]);

  if (job.error) return <Failed error={job.error} retry={() => job.refetch()} />;
  if (!job.data) return null;
  const outcome = job.data.outcome as Outcome;
  return (
    <section aria-label={job.data.title} className="mt-5" data-testid="job">
      <h2 className="text-lg">
        {job.data.dry_run && "Tried: "}
        {job.data.title}
      </h2>
      {(state === "waiting" || state === "running") && (
        <div className="mt-1 flex items-center gap-3">
          <progress value={job.data.done_share} max={1} aria-label="Progress" className="h-2 w-64 accent-spruce" />
          <span role="status">{state === "waiting" ? "Waiting for its turn" : job.data.step}</span>
          {mayChange && (
            <Button
              disabled={job.data.cancel_requested}
              onClick={async () => {
                await api.POST("/api/sites/{slug}/jobs/{job_id}/cancel", { params: { path: { slug, job_id: id } } });
                job.refetch();
              }}
            >
              Cancel
            </Button>
          )}
        </div>
      )}
      {job.data.log.length > 0 && <Log lines={job.data.log} />}
      {state === "done" && job.data.step && (
        <p role="status" className="mt-1 text-faint">
          {job.data.step} in the background. You can look at everything meanwhile; some of it takes a little longer.
        </p>
      )}
      {state === "done" && <Done slug={slug} job={job.data} outcome={outcome} />}
      {(state === "refused" || state === "failed" || state === "cancelled") && (
        <div
          role="alert"
          className={`mt-1 border-l-3 bg-sheet px-4 py-2 ${state === "cancelled" ? "border-rule" : "border-rust"}`}
        >
          <p className="font-semibold">
            {outcome.message} {outcome.remedy}
          </p>
          <Problems problems={outcome.problems ?? []} rows={outcome.rows ?? 0} counts={outcome.counts ?? {}} />
          {job.data.kind === "archive" && (
            <p className="mt-1">
              Nothing was imported.{" "}
              <Link to="/$site/people" params={{ site: slug }} className="link">
                Delete this site
              </Link>
              , or load files into it.
            </p>
          )}
          {mayChange && (
            <p className="my-2 flex gap-3 empty:hidden">
              {state === "refused" && (outcome.rows ?? 0) > 0 && (
                <Button onClick={() => again(true)}>Load the good rows, list the refused</Button>
              )}
              {(state !== "refused" || !(job.data.kind in OF_A_FILE)) && (
                <Button onClick={() => again(false)}>{OF_A_FILE[job.data.kind] ?? "Continue where it stopped"}</Button>
              )}
            </p>
          )}
        </div>
      )}
    </section>
  );
}

function Done({ slug, job, outcome }: { slug: string; job: Schemas["JobShown"]; outcome: Outcome }) {
  return (
    <div className="mt-1 border-spruce border-l-3 bg-sheet px-4 py-2">
      {job.kind === "crawl" && (
        <p className="font-serif text-base">
          {count(outcome.pages)} addresses and {count(outcome.links)} links found: {answered(outcome.statuses ?? {})}.
        </p>
      )}
      {job.kind === "above" && (
        <p className="font-serif text-base">
          {count(outcome.pages)} competing pages fetched, {count(outcome.failed)} could not be; {count(outcome.fresh)}{" "}
          were fetched within thirty days.
        </p>
      )}
      {job.kind === "archive" && (
        <p className="font-serif text-base">
          {many(outcome.rows ?? 0, "row")}, {many(outcome.loads ?? 0, "load")} and {many(outcome.moves ?? 0, "move")}{" "}
          imported. Its services need their tokens again; its reports and nightly refreshes are off until someone turns
          them on.
        </p>
      )}
      {job.kind === "refresh" &&
        outcome.connections?.map((one) => (
          <p key={one.source} className="font-serif text-base">
            {SOURCES[one.source].title}:{" "}
            {one.rows
              ? `${count(one.rows)} rows fetched, ${count(one.new)} of them new, ${count(one.replaced)} replaced.`
              : "nothing was missing."}
          </p>
        ))}
      {job.kind === "load" && <LoadWords outcome={outcome} />}
      {outcome.notices?.map((notice) => (
        <p key={notice} className="text-ochre">
          {notice}
        </p>
      ))}
      {job.has_refused_rows && outcome.refusals && (
        <>
          <p className="mt-1">
            {count(outcome.refused)} rows were refused.{" "}
            <Button plain onClick={() => download(`/api/sites/${slug}/jobs/${job.id}/refused.csv`)}>
              Download them with the reasons
            </Button>
          </p>
          <Problems problems={outcome.refusals.first} rows={outcome.refusals.rows} counts={outcome.refusals.counts} />
        </>
      )}
      {!job.dry_run && (
        <p className="mt-1">
          <Link to="/$site/queries" params={{ site: slug }} className="link">
            See where clicks are lost
          </Link>
        </p>
      )}
    </div>
  );
}

function Log({ lines }: { lines: Schemas["LogLine"][] }) {
  return (
    <details className="mt-1 text-faint text-xs">
      <summary>
        {lines.at(-1)?.line} ({lines.length} {plural(lines.length, "line")})
      </summary>
      <ol className="max-h-40 overflow-auto pl-4">
        {lines.map((one) => (
          <li key={one.at + one.line}>
            {timeOfDay(one.at)} {one.line}
          </li>
        ))}
      </ol>
    </details>
  );
}
