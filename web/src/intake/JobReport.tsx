import { useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useEffect } from "react";
import { toast } from "sonner";
import { api, given, type ProblemError } from "../api/client";
import { useJob } from "../api/hooks";
import { count, day } from "../shared/format";
import { Button, Failed } from "../shared/parts";

type FileProblem = { line: number | null; column: string; value: string; message: string; remedy: string };
type Outcome = {
  message?: string;
  remedy?: string;
  problems?: FileProblem[];
  counts?: Record<string, number>;
  rows?: number;
  loaded?: number;
  refused?: number;
  days?: number;
  first_day?: string;
  last_day?: string;
  pages?: number;
  queries?: number;
  changed?: boolean;
  notices?: string[];
  refusals?: { first: FileProblem[]; counts: Record<string, number>; rows: number };
};

/** One load: how far it is, then what it did or why it was refused. */
export function JobReport({ slug, id, mayChange }: { slug: string; id: number; mayChange: boolean }) {
  const queryClient = useQueryClient();
  const job = useJob(slug, id);
  const state = job.data?.state;

  const navigate = useNavigate();

  async function again(keep_good_rows: boolean) {
    try {
      const params = { path: { slug, job_id: id } };
      const asked = given(
        await api.POST("/api/sites/{slug}/jobs/{job_id}/again", { params, body: { keep_good_rows } }),
      );
      navigate({ to: "/$site/intake", params: { site: slug }, search: { job: asked.id } });
    } catch (error) {
      const { problem } = error as ProblemError;
      toast.error(`${problem.detail} ${problem.remedy}`);
    }
  }

  useEffect(() => {
    if (state) queryClient.invalidateQueries({ queryKey: ["jobs", slug] });
    if (state !== "done") return;
    for (const key of ["sites", "rows", "field", "evidence", "brand"])
      queryClient.invalidateQueries({ queryKey: [key] });
  }, [state, slug, queryClient]);

  if (job.error) return <Failed error={job.error} retry={() => job.refetch()} />;
  if (!job.data) return null;
  const outcome = job.data.outcome as Outcome;
  return (
    <section aria-label="Load" className="mt-5" data-testid="job">
      <h2 className="text-lg">{job.data.title}</h2>
      {(state === "waiting" || state === "running") && (
        <div className="mt-1 flex items-center gap-3">
          <progress value={job.data.done_share} max={1} aria-label="Progress" className="h-2 w-64 accent-spruce" />
          <span role="status">{state === "waiting" ? "Waiting for its turn" : job.data.step}</span>
          {mayChange && (
            <Button
              disabled={job.data.cancel_asked}
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
      {state === "done" && <Done slug={slug} id={id} outcome={outcome} refusedRows={job.data.has_refused_rows} />}
      {(state === "refused" || state === "failed" || state === "cancelled") && (
        <div
          role="alert"
          className={`mt-1 border-l-3 bg-sheet px-4 py-2 ${state === "cancelled" ? "border-rule" : "border-rust"}`}
        >
          <p className="font-semibold">
            {outcome.message} {outcome.remedy}
          </p>
          <Problems problems={outcome.problems ?? []} rows={outcome.rows ?? 0} counts={outcome.counts ?? {}} />
          {mayChange && (
            <p className="my-2 flex gap-3">
              {state === "refused" && (outcome.rows ?? 0) > 0 && (
                <Button onClick={() => again(true)}>Load the good rows, list the refused</Button>
              )}
              {state !== "refused" && <Button onClick={() => again(false)}>Load it again</Button>}
            </p>
          )}
        </div>
      )}
    </section>
  );
}

function Done({
  slug,
  id,
  outcome,
  refusedRows,
}: {
  slug: string;
  id: number;
  outcome: Outcome;
  refusedRows: boolean;
}) {
  return (
    <div className="mt-1 border-spruce border-l-3 bg-sheet px-4 py-2">
      <p className="font-serif text-base">
        {outcome.changed
          ? `${count(outcome.loaded)} of ${count(outcome.rows)} rows loaded: ${count(outcome.days)} days from ${day(outcome.first_day ?? "")} to ${day(outcome.last_day ?? "")}, ${count(outcome.pages)} pages, ${count(outcome.queries)} queries.`
          : "Nothing changed: all rows of the file stood here already."}
      </p>
      {outcome.notices?.map((notice) => (
        <p key={notice} className="text-ochre">
          {notice}
        </p>
      ))}
      {refusedRows && outcome.refusals && (
        <>
          <p className="mt-1">
            {count(outcome.refused)} rows were refused.{" "}
            <a href={`/api/sites/${slug}/jobs/${id}/refused.csv`} download className="underline">
              Download them, with what is wrong with each
            </a>
          </p>
          <Problems problems={outcome.refusals.first} rows={outcome.refusals.rows} counts={outcome.refusals.counts} />
        </>
      )}
      <p className="mt-1">
        <Link to="/$site/queries" params={{ site: slug }} className="underline">
          See where clicks are lost
        </Link>
      </p>
    </div>
  );
}

function Problems({
  problems,
  rows,
  counts,
}: {
  problems: FileProblem[];
  rows: number;
  counts: Record<string, number>;
}) {
  if (problems.length === 0) return null;
  return (
    <>
      {rows > 0 && (
        <p className="text-faint">
          {Object.entries(counts)
            .map(([message, number]) => `${message}: ${count(number)}`)
            .join("; ")}
        </p>
      )}
      <div className="mt-1 max-h-80 overflow-auto">
        <table className="w-full text-left">
          <thead className="text-faint text-xs">
            <tr>
              {["line", "column", "what stands there", "what is wrong", "what to do"].map((name) => (
                <th key={name} scope="col" className="pr-3 font-normal">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {problems.map((problem) => (
              <tr key={`${problem.line}${problem.message}`} className="border-rule border-t align-top">
                <td className="pr-3">{problem.line ?? ""}</td>
                <td className="pr-3">{problem.column}</td>
                <td className="max-w-48 truncate pr-3 font-mono text-xs">{problem.value}</td>
                <td className="pr-3">{problem.message}</td>
                <td>{problem.remedy}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {rows > problems.length && (
        <p className="text-faint">
          The first {problems.length} of {count(rows)}.
        </p>
      )}
    </>
  );
}
