// Data: what is loaded, since when, and its problems; drop a file, check it, preview it, load it.
import { useQueryClient } from "@tanstack/react-query";
import { getRouteApi } from "@tanstack/react-router";
import { Upload } from "lucide-react";
import { type DragEvent, useEffect, useRef, useState } from "react";
import { api, type ProblemError, type Schemas, values } from "../api/client";
import { useSite } from "../frame/useSite";
import { ChooseFile, send } from "../shared/ChooseFile";
import { day, moment } from "../shared/format";
import { Button, Failed } from "../shared/parts";
import { useAct } from "../shared/useAct";
import { BrandAsk } from "./BrandAsk";
import { DataHead } from "./DataHead";
import { useConnections, useJobs, useSources } from "./hooks";
import { JobReport } from "./JobReport";
import { type LoadRequest, Matching } from "./Matching";
import { Sources } from "./Sources";

const route = getRouteApi("/reader/$site/data");
type Uploaded = Schemas["Uploaded"];

export function DataPlace() {
  const { slug, site } = useSite();
  const { job } = route.useSearch();
  const navigate = route.useNavigate();
  const queryClient = useQueryClient();
  const sources = useSources(slug);
  const connections = useConnections(slug);
  const jobs = useJobs(slug);
  const act = useAct();
  const [uploaded, setUploaded] = useState<Uploaded | null>(null);
  const [tried, setTried] = useState<number | null>(null);
  const [sent, setSent] = useState<number | null>(null);
  const [refused, setRefused] = useState<ProblemError | null>(null);
  const showJob = (id: number) => navigate({ search: { job: id } });

  async function take(file: File) {
    setRefused(null);
    setUploaded(null);
    setTried(null);
    setSent(0);
    try {
      setUploaded(await send<Uploaded>(`/api/sites/${slug}/uploads`, file, setSent));
      navigate({ search: {} });
    } catch (error) {
      setRefused(error as ProblemError);
    } finally {
      setSent(null);
    }
  }

  async function load(options: LoadRequest) {
    if (!uploaded) return;
    try {
      const body = { upload: uploaded.upload, ...options };
      const made = values(await api.POST("/api/sites/{slug}/loads", { params: { path: { slug } }, body }));
      if (options.dry_run) {
        setTried(made.id);
      } else {
        setUploaded(null);
        showJob(made.id);
      }
      queryClient.invalidateQueries({ queryKey: ["get", "/api/sites/{slug}/jobs"] });
    } catch (error) {
      setRefused(error as ProblemError);
    }
  }

  async function refresh() {
    const options = await act(() =>
      api.POST("/api/sites/{slug}/refresh", { params: { path: { slug } }, body: { sources: null } }),
    );
    if (options) showJob(options.id);
  }

  if (!site) return null;
  const says =
    site.first_day && site.last_day
      ? `${site.name} has search data from ${day(site.first_day)} to ${day(site.last_day)}${site.missing_days ? `, with ${site.missing_days} days missing between` : ", complete"}.`
      : `${site.name} has no search data yet.`;
  return (
    <>
      <DataHead says={says}>
        {site.may_change && (connections.data?.length ?? 0) > 0 && <Button onClick={refresh}>Refresh</Button>}
      </DataHead>
      <div className="min-h-0 flex-1 overflow-auto">
        <div className="max-w-6xl px-4 pt-3 pb-6">
          {site.may_change ? (
            <Drop take={take} sent={sent} />
          ) : (
            <p className="mt-4 border-rule border-y py-3">Readers cannot load data. Ask an analyst of the site.</p>
          )}
          {!uploaded && <BrandAsk key={slug} site={site} />}
          {refused && <Refused error={refused} />}
          {uploaded && (
            <Matching
              key={uploaded.upload}
              slug={slug}
              uploaded={uploaded}
              site={site}
              load={load}
              drop={() => setUploaded(null)}
            >
              {tried !== null && <JobReport slug={slug} id={tried} mayChange={site.may_change} />}
            </Matching>
          )}
          {job !== undefined && !uploaded && <JobReport slug={slug} id={job} mayChange={site.may_change} />}
          {sources.error ? (
            <Failed error={sources.error} retry={() => sources.refetch()} />
          ) : (
            sources.data && (
              <>
                <Sources slug={slug} sources={sources.data} mayChange={site.may_change} showJob={showJob} />
                <Work jobs={jobs.data ?? []} open={showJob} />
              </>
            )
          )}
        </div>
      </div>
    </>
  );
}

/** The clipboard as a file: cells or lines first, because spreadsheets also copy a picture of them. */
function pastedFile(stored: DataTransfer): File | undefined {
  const text = stored.getData("text/plain").trimEnd();
  if (text.includes("\n")) return new File([text], "pasted table", { type: "text/plain" });
  return stored.files[0];
}

function Drop({ take, sent }: { take: (file: File) => void; sent: number | null }) {
  const [over, setOver] = useState(false);
  const taking = useRef(take);
  taking.current = take;

  useEffect(() => {
    function paste(event: ClipboardEvent) {
      const typing =
        event.target instanceof Element && event.target.closest("input, textarea, select, [contenteditable]");
      const file = typing || !event.clipboardData ? undefined : pastedFile(event.clipboardData);
      if (file) {
        event.preventDefault();
        taking.current(file);
      }
    }
    document.addEventListener("paste", paste);
    return () => document.removeEventListener("paste", paste);
  }, []);

  function drop(event: DragEvent) {
    event.preventDefault();
    setOver(false);
    const file = event.dataTransfer.files[0];
    if (file) take(file);
  }

  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping is the mouse's way; the button inside is everyone's
    <div
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
      className={`mt-4 flex items-center gap-4 border border-dashed px-4 py-2.5 ${over ? "border-ink bg-shade" : "border-strong-rule"}`}
    >
      <Upload size={18} aria-hidden="true" className="shrink-0 text-faint" />
      <p className="flex-1">
        <span className="font-serif text-base">Drop a file here, or paste a table.</span>{" "}
        <span className="text-faint">
          CSV, XLSX, ODS, JSON, Parquet, a calendar, an access log, or a ZIP of them; nothing changes before you have
          seen it.
        </span>
      </p>
      <ChooseFile label="File to load" take={take} sent={sent} />
    </div>
  );
}

function Refused({ error }: { error: ProblemError }) {
  return (
    <div role="alert" className="mt-4 border-rust border-l-3 bg-sheet px-4 py-2">
      <p className="font-semibold text-rust">{error.message}</p>
      {error.problem.problems.map((problem) => (
        <p key={problem.message}>
          {problem.line !== null && `Line ${problem.line}: `}
          {problem.message}
          {problem.value && ` (“${problem.value}”)`}. {problem.remedy}
        </p>
      ))}
      {error.problem.remedy && <p>{error.problem.remedy}</p>}
    </div>
  );
}

function Work({ jobs, open }: { jobs: Schemas["JobShown"][]; open: (id: number) => void }) {
  if (jobs.length === 0) return null;
  return (
    <section className="mt-6">
      <h2 className="border-ink border-b pb-1 text-lg">Continue in the background</h2>
      <ul>
        {jobs.slice(0, 8).map((job) => (
          <li key={job.id} className="flex items-baseline gap-3 border-rule border-b py-1.5">
            <Button plain onClick={() => open(job.id)}>
              {job.title}
              {job.dry_run && ", tried"}
            </Button>
            <span className={job.state === "refused" || job.state === "failed" ? "text-rust" : "text-faint"}>
              {job.state === "running" ? job.step || "running" : job.state}
            </span>
            <time dateTime={job.made_at} className="ml-auto text-faint">
              {moment(job.made_at)}
            </time>
          </li>
        ))}
      </ul>
    </section>
  );
}
