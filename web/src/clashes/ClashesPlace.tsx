// Clashes: which queries the site's own pages fight over, who leads, what shall be done.
import { getRouteApi } from "@tanstack/react-router";
import { useCallback, useMemo, useState } from "react";
import { clashList } from "../api/hooks";
import { useSite } from "../frame/Frame";
import { TopLine } from "../queries/TopLine";
import { ExportMenu } from "../shared/ExportMenu";
import { findingFile } from "../shared/export";
import { ListPlace, ListSays } from "../shared/ListPlace";
import { NoData, useListPlace } from "../shared/place";
import { Views } from "../shared/Views";
import { type ClashesSearch, clashesAsked, scopeOf, standingAsked } from "../state/search";
import { ClashFile } from "./ClashFile";
import { ClashList } from "./ClashList";
import { SettleMarked } from "./SettleMarked";
import { TopicFolds } from "./TopicFolds";

const route = getRouteApi("/reader/$site/clashes");
const VIEWS = { queries: "Queries fought over", folds: "Pages shown for the same" };

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
    <ListPlace
      name="clashes"
      heading="Clashes"
      top={
        <TopLine site={site} search={search} list={list.data} change={change} opened={opened} setOpened={setOpened} />
      }
      above={
        <Views
          views={VIEWS}
          chosen={search.view ?? "queries"}
          choose={(view) => change({ view: view === "folds" ? view : undefined })}
          aside={<ExportMenu {...exported} />}
        />
      }
      instead={search.view === "folds" ? <TopicFolds site={site} asked={standingAsked(search)} /> : undefined}
      failed={list}
      onMarked={
        site.may_change ? (marked) => <SettleMarked site={site} marked={marked} scope={scopeOf(asked)} /> : undefined
      }
      head={
        <ListSays sentences={list.data?.sentences} lacking={list.data?.lacking ?? []} long>
          {list.data?.no_longer.map((one) => (
            <p key={one.query_id} className="text-spruce text-xs">
              “{one.query}” was decided ({one.decision.choice}) and does not clash here. {one.decision.sentence}
            </p>
          ))}
        </ListSays>
      }
      list={
        <ClashList
          slug={slug}
          asked={asked}
          list={list.data}
          stale={list.isPlaceholderData}
          search={search}
          change={change}
        />
      }
      evidence={<ClashFile site={site} asked={asked} query={query} period={list.data?.period} />}
    />
  );
}
