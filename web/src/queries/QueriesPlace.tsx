// Queries: which rows earn less (or more) than their position should. List and evidence side by side.
import { getRouteApi } from "@tanstack/react-router";
import { useCallback, useMemo, useState } from "react";
import { queryList } from "../api/hooks";
import { useSite } from "../frame/Frame";
import { findingFile } from "../shared/export";
import { Failed } from "../shared/parts";
import { NoData, useListPlace } from "../shared/place";
import { SplitPane } from "../shared/SplitPane";
import { LENSES, type Lens, listAsked, type QueriesSearch } from "../state/search";
import { EvidencePane } from "./EvidencePane";
import { ListHead } from "./ListHead";
import { QueryList } from "./QueryList";
import { TopLine } from "./TopLine";

const route = getRouteApi("/reader/$site/queries");

export function QueriesPlace() {
  const { slug, site } = useSite();
  const search = route.useSearch();
  const navigate = route.useNavigate();
  const asked = useMemo(() => listAsked(search), [search]);
  const list = queryList.useHead(slug, asked, Boolean(site?.last_day));
  const [opened, setOpened] = useState<string | null>(null);

  // A change of what is listed is a step to come back to; walking its rows is not.
  const change = useCallback(
    (part: Partial<QueriesSearch>) =>
      navigate({ search: (now) => ({ ...now, row: undefined, ...part }), replace: "row" in part }),
    [navigate],
  );

  const exported = { base: findingFile(slug, asked.lens), asked, rows: `${list.data?.total ?? "all"} rows` };
  useListPlace({ title: `${LENSES[asked.lens]} · ${site?.name ?? ""}`, open: setOpened, ...exported });

  if (!site) return null;
  if (!site.last_day) return <NoData slug={slug} />;
  return (
    <>
      <TopLine site={site} search={search} list={list.data} change={change} opened={opened} setOpened={setOpened} />
      <h1 className="sr-only">Queries: {LENSES[asked.lens]}</h1>
      {list.error ? (
        <Failed error={list.error} retry={() => list.refetch()} />
      ) : (
        <SplitPane
          name="queries"
          left={
            <section aria-label="List" className="flex h-full flex-col">
              <ListHead
                list={list.data}
                search={search}
                change={change}
                exported={exported}
                choose={(lens: Lens) => change({ lens, sort: undefined, up: undefined })}
              />
              <QueryList
                slug={slug}
                asked={asked}
                list={list.data}
                stale={list.isPlaceholderData}
                search={search}
                change={change}
              />
            </section>
          }
          right={<EvidencePane site={site} asked={asked} search={search} list={list.data} change={change} />}
        />
      )}
    </>
  );
}
