// Clashes: which queries the site's own pages fight over, who leads, what shall be done.
import { getRouteApi } from "@tanstack/react-router";
import { useCallback, useMemo, useState } from "react";
import { clashList } from "../api/hooks";
import { useSite } from "../frame/Frame";
import { TopLine } from "../queries/TopLine";
import { ExportMenu } from "../shared/ExportMenu";
import { findingFile } from "../shared/export";
import { Failed } from "../shared/parts";
import { NoData, useListPlace } from "../shared/place";
import { SplitPane } from "../shared/SplitPane";
import { type ClashesSearch, clashesAsked, standingAsked } from "../state/search";
import { ClashFile } from "./ClashFile";
import { ClashList } from "./ClashList";
import { TopicFolds } from "./TopicFolds";

const route = getRouteApi("/reader/$site/clashes");

export function ClashesPlace() {
  const { slug, site } = useSite();
  const search = route.useSearch();
  const navigate = route.useNavigate();
  const asked = useMemo(() => clashesAsked(search), [search]);
  const list = clashList.useHead(slug, asked, Boolean(site?.last_day));
  const [opened, setOpened] = useState<string | null>(null);

  const change = useCallback(
    (part: Partial<ClashesSearch>) =>
      navigate({ search: (now) => ({ ...now, query: undefined, ...part }), replace: "query" in part }),
    [navigate],
  );
  const exported = {
    base: findingFile(slug, search.view ? "topic-folds" : "clashes"),
    asked,
    rows: search.view ? "all pairs" : `${list.data?.total ?? "all"} clashes`,
  };
  useListPlace({ title: `Clashes · ${site?.name ?? ""}`, open: setOpened, ...exported });

  if (!site) return null;
  if (!site.last_day) return <NoData slug={slug} />;
  const query = search.query ?? list.data?.rows[0]?.query_id;
  return (
    <>
      <TopLine site={site} search={search} list={list.data} change={change} opened={opened} setOpened={setOpened} />
      <h1 className="sr-only">Clashes</h1>
      <div className="flex items-baseline gap-x-5 border-rule border-b px-4 pt-1.5 pb-1">
        {([undefined, "folds"] as const).map((view) => (
          <button
            key={view ?? ""}
            type="button"
            aria-pressed={search.view === view}
            onClick={() => change({ view })}
            className={`border-b-2 font-serif text-[15px] ${search.view === view ? "border-ink font-semibold" : "border-transparent text-faint hover:text-ink"}`}
          >
            {view ? "Pages shown for the same" : "Queries fought over"}
          </button>
        ))}
        <span className="ml-auto">
          <ExportMenu {...exported} />
        </span>
      </div>
      {search.view === "folds" ? (
        <TopicFolds slug={slug} asked={standingAsked(search)} />
      ) : list.error ? (
        <Failed error={list.error} retry={() => list.refetch()} />
      ) : (
        <SplitPane
          name="clashes"
          left={
            <section aria-label="List" className="flex h-full flex-col">
              <div className="border-rule border-b px-4 pt-2.5 pb-2">
                <div className="flex items-baseline justify-between gap-x-4">
                  <p className="min-h-5">{list.data?.sentences.join(" ")}</p>
                </div>
                {list.data?.no_longer.map((one) => (
                  <p key={one.query_id} className="text-spruce text-xs">
                    “{one.query}” was decided ({one.decision.choice}) and does not clash here. {one.decision.sentence}
                  </p>
                ))}
                <div className="min-h-4">
                  {list.data?.lacking.map((said) => (
                    <p key={said} role="status" className="text-ochre text-xs">
                      {said}
                    </p>
                  ))}
                </div>
              </div>
              <ClashList
                slug={slug}
                asked={asked}
                list={list.data}
                stale={list.isPlaceholderData}
                search={search}
                change={change}
              />
            </section>
          }
          right={<ClashFile site={site} asked={asked} query={query} period={list.data?.period} />}
        />
      )}
    </>
  );
}
