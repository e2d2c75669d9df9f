// The list of sources: what is stored, its days on one time axis, when it was loaded, and its problems.
import { useState } from "react";
import { api, type Schemas } from "../api/client";
import { FetchCompeting } from "../onpage/FetchCompeting";
import { count, day, many, moment, share } from "../shared/format";
import { Button } from "../shared/parts";
import { useAct } from "../shared/useAct";
import { ConnectionDialog } from "./ConnectionDialog";
import { DayStrip, Months, type Span } from "./DayStrip";
import { EventsDialog } from "./EventsDialog";
import { useConnections } from "./hooks";
import { SOURCES, type Source } from "./names";

type Props = { slug: string; sources: Schemas["SourceLoaded"][]; mayChange: boolean; showJob: (id: number) => void };

export function Sources({ slug, sources, mayChange, showJob }: Props) {
  const connections = useConnections(slug).data ?? [];
  const [connecting, setConnecting] = useState<Exclude<Source, "crawl" | "above"> | null>(null);
  const [events, setEvents] = useState(false);
  const act = useAct();
  const days = sources.flatMap((one) => one.grains.flatMap((grain) => [grain.first_day, grain.last_day]));
  const known = days.filter((one): one is string => one !== null).sort();
  const span = known.length ? { first: known[0] as string, last: known.at(-1) as string } : null;

  async function crawl() {
    const job = await act(() =>
      api.POST("/api/sites/{slug}/crawl", {
        params: { path: { slug } },
        body: { hosts: [], pages_max: 50_000, connections: 8, delay_seconds: 0 },
      }),
    );
    if (job) showJob(job.id);
  }

  return (
    <section aria-label="Sources" className="mt-5">
      <div className="grid grid-cols-[13rem_minmax(0,1fr)_16rem] gap-x-5 border-ink border-b pb-1 max-md:grid-cols-1">
        <h2 className="text-lg">Sources</h2>
        <div className="max-md:hidden">{span && <Months span={span} />}</div>
        <span className="text-faint text-xs max-md:hidden">newest load</span>
      </div>
      <ul>
        {sources.map((source) => (
          <li
            key={source.source}
            className="grid grid-cols-[13rem_minmax(0,1fr)_16rem] gap-x-5 border-rule border-b py-2 max-md:grid-cols-1"
          >
            <div>
              <h3 className="text-base">{SOURCES[source.source].title}</h3>
              <p className="text-faint text-xs">
                {source.rows
                  ? `${count(source.rows)} ${source.source === "crawl" ? "pages" : source.source === "events" ? "events" : "rows"}`
                  : SOURCES[source.source].holds}
              </p>
            </div>
            <Loaded source={source} span={span} />
            <div className="text-xs">
              {source.loaded_at && (
                <p className="truncate text-faint" title={source.loaded_from}>
                  {moment(source.loaded_at)}
                  {source.loaded_by && ` by ${source.loaded_by}`}: {source.loaded_from}
                </p>
              )}
              {mayChange && (
                <p className="mt-0.5 flex flex-wrap gap-x-3">
                  {source.source === "crawl" ? (
                    <Button plain onClick={crawl}>
                      {source.rows ? "Crawl again" : "Crawl the site"}
                    </Button>
                  ) : source.source === "above" ? (
                    <FetchCompeting site={{ slug }} />
                  ) : (
                    <Button plain onClick={() => setConnecting(source.source as typeof connecting)}>
                      {words(connections.find((one) => one.source === source.source))}
                    </Button>
                  )}
                  {source.source === "events" && (
                    <Button plain onClick={() => setEvents(true)}>
                      Events
                    </Button>
                  )}
                </p>
              )}
            </div>
          </li>
        ))}
      </ul>
      {connecting && (
        <ConnectionDialog
          slug={slug}
          source={connecting}
          stored={connections.find((one) => one.source === connecting)}
          close={() => setConnecting(null)}
        />
      )}
      {events && <EventsDialog slug={slug} close={() => setEvents(false)} />}
    </section>
  );
}

function words(connection: Schemas["ConnectionShown"] | undefined): string {
  if (!connection) return "Connect a service";
  const when = connection.requested_at ? `, last refresh ${moment(connection.requested_at)}` : " to a service";
  return `Connected${connection.nightly ? " nightly" : ""}${when}`;
}

/** The contents of a source: its strips or amounts; then its problems. */
function Loaded({ source, span }: { source: Schemas["SourceLoaded"]; span: Span | null }) {
  if (!source.rows) return <p className="self-center text-faint">Nothing yet. Drop a file above.</p>;
  const dated = source.grains.filter((grain) => grain.days.length);
  return (
    <div className="min-w-0 space-y-1">
      {span &&
        dated.map((grain) => (
          <div key={grain.name}>
            <DayStrip grain={grain} span={span} measure={source.source === "visits" ? "sessions" : "clicks"} />
            <p className="text-faint text-xs">
              {dated.length > 1 && `by ${grain.name}: `}
              {day(grain.first_day ?? "")} to {day(grain.last_day ?? "")}
              {grain.clicks != null && `, ${count(grain.clicks)} clicks`}
              {grain.withheld_clicks != null &&
                grain.clicks != null &&
                `, ${share(grain.withheld_clicks / grain.clicks)} from anonymised queries`}
            </p>
          </div>
        ))}
      {source.says && <p>{source.says}</p>}
      {source.unsound.map((one) => (
        <Unsound key={one.message} answer={one} />
      ))}
    </div>
  );
}

function Unsound({ answer }: { answer: Schemas["Unsound"] }) {
  if (answer.examples.length === 0) {
    return (
      <p className="text-ochre">
        {answer.message} <span className="text-faint">{answer.remedy}</span>
      </p>
    );
  }
  return (
    <details className="text-ochre">
      <summary>
        {answer.message} <span className="text-faint">{answer.remedy}</span>
      </summary>
      {answer.examples.length > 0 && (
        <ul className="mt-0.5 columns-2 gap-4 pl-4 text-ink text-xs">
          {answer.examples.map((example) => (
            <li key={example} className="truncate" title={example}>
              {example}
            </li>
          ))}
          {answer.count > answer.examples.length && (
            <li className="text-faint">and {many(answer.count - answer.examples.length, "other")}</li>
          )}
        </ul>
      )}
    </details>
  );
}
