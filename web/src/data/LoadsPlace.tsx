// Every load of the site, newest first, with its report; each can be undone.
import { getRouteApi } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../api/client";
import { useSite } from "../frame/useSite";
import { FigureTable } from "../shared/FigureTable";
import { count, day, moment, NONE } from "../shared/format";
import { Button, Failed, Notice } from "../shared/parts";
import { useAct } from "../shared/useAct";
import { DataHead } from "./DataHead";
import { useLoad, useLoads } from "./hooks";
import { answered, LoadWords, type Outcome, Problems } from "./LoadWords";
import { SOURCES } from "./names";

const route = getRouteApi("/reader/$site/data/loads");
const PAGE = 50;

export function LoadsPlace() {
  const { slug, site } = useSite();
  const { load } = route.useSearch();
  const navigate = route.useNavigate();
  const [offset, setOffset] = useState(0);
  const loads = useLoads(slug, offset);
  const shown = load ?? loads.data?.loads[0]?.id;

  if (!site) return null;
  return (
    <>
      <DataHead says="What each load did, who made it, and how to undo it." />
      <div className="min-h-0 flex-1 overflow-auto">
        <div className="max-w-6xl px-4 pt-3 pb-6">
          {loads.error && <Failed error={loads.error} retry={() => loads.refetch()} />}
          {loads.data?.total === 0 && (
            <Notice title="Nothing loaded yet">Drop a file under Sources to see its report here.</Notice>
          )}
          {loads.data && loads.data.total > 0 && (
            <div className="mt-4 grid grid-cols-[minmax(0,3fr)_minmax(0,2fr)] gap-8 max-md:grid-cols-1">
              <div>
                <FigureTable
                  rows={loads.data.loads}
                  keyOf={(one) => one.id}
                  chosen={(one) => one.id === shown}
                  columns={[
                    {
                      head: "when",
                      look: "whitespace-nowrap text-faint",
                      cell: (one) => moment(one.made_at),
                    },
                    {
                      head: "what",
                      left: true,
                      look: "max-w-64",
                      cell: (one) => (
                        <>
                          <Button
                            plain
                            className={`block! max-w-full truncate text-left ${one.taken_back_at ? "line-through" : ""}`}
                            onClick={() => navigate({ search: { load: one.id } })}
                          >
                            {one.name}
                          </Button>
                          <span className="block text-faint text-xs">
                            {SOURCES[one.source].title}
                            {one.by && `, by ${one.by}`}
                            {one.taken_back_at && `, undone by ${one.taken_back_by || "the operator"}`}
                          </span>
                        </>
                      ),
                    },
                    { head: "rows", look: "whitespace-nowrap", cell: (one) => count(one.rows) },
                    {
                      head: "days",
                      left: true,
                      look: "min-w-24 max-w-32 text-xs",
                      cell: (one) =>
                        one.first_day && one.last_day ? `${day(one.first_day)} to ${day(one.last_day)}` : NONE,
                    },
                  ]}
                />
                {loads.data.total > PAGE && (
                  <p className="mt-2 flex items-center gap-3">
                    <Button disabled={offset === 0} onClick={() => setOffset(Math.max(offset - PAGE, 0))}>
                      Newer
                    </Button>
                    <Button disabled={offset + PAGE >= loads.data.total} onClick={() => setOffset(offset + PAGE)}>
                      Older
                    </Button>
                    <span className="text-faint">{count(loads.data.total)} loads</span>
                  </p>
                )}
              </div>
              {shown !== undefined && <Report slug={slug} id={shown} mayChange={site.may_change} />}
            </div>
          )}
        </div>
      </div>
    </>
  );
}

function Report({ slug, id, mayChange }: { slug: string; id: number; mayChange: boolean }) {
  const load = useLoad(slug, id);
  const act = useAct();
  if (load.error) return <Failed error={load.error} retry={() => load.refetch()} />;
  if (!load.data) return null;
  const report = load.data.report as Outcome;
  const back = load.data.taken_back_at;

  return (
    <section aria-label="Report" data-testid="report">
      <h2 className="text-lg">{load.data.name}</h2>
      <p className="mb-1 text-faint">
        Loaded {moment(load.data.made_at)}
        {load.data.by && ` by ${load.data.by}`}.
      </p>
      {back && (
        <p className="mb-1 border-rust border-l-3 px-3">
          Taken back {moment(back)}
          {load.data.taken_back_by && ` by ${load.data.taken_back_by}`}: the data are as if it had never been loaded.
        </p>
      )}
      {report.tables && <LoadWords outcome={{ ...report, changed: true }} />}
      {report.statuses && (
        <p className="font-serif text-base">
          {count(report.pages)} addresses, {count(report.links)} links: {answered(report.statuses)}.
        </p>
      )}
      {report.tables && (
        <p>
          {count(report.rows_new)} rows were new, {count(report.rows_replaced)} replaced others,{" "}
          {count(report.rows_lost)} went.
        </p>
      )}
      {report.notices?.map((notice) => (
        <p key={notice} className="text-ochre">
          {notice}
        </p>
      ))}
      {report.refusals && (
        <Problems problems={report.refusals.first} rows={report.refusals.rows} counts={report.refusals.counts} />
      )}
      {mayChange && !back && (
        <p className="mt-3">
          <Button
            onClick={() =>
              act(
                () => api.POST("/api/sites/{slug}/loads/{load_id}/undo", { params: { path: { slug, load_id: id } } }),
                "Undone. Other loads are unchanged.",
              )
            }
          >
            Undo this load
          </Button>
        </p>
      )}
    </section>
  );
}
