// Queries: which rows earn less (or more) than their position should. List and evidence side by side; and the query groups.
import { getRouteApi } from "@tanstack/react-router";
import { useCallback, useMemo, useState } from "react";
import { queryList } from "../api/hooks";
import { useSite } from "../frame/Frame";
import { DecideMarked } from "../moves/DecideMarked";
import { ExportMenu } from "../shared/ExportMenu";
import { findingFile } from "../shared/export";
import { ListPlace } from "../shared/ListPlace";
import { NoData, useListPlace } from "../shared/place";
import { Views } from "../shared/Views";
import { LENSES, type Lens, listAsked, type QueriesSearch, scopeAsked, scopeOf } from "../state/search";
import { EvidencePane } from "./EvidencePane";
import { ListHead } from "./ListHead";
import { QueryGroups } from "./QueryGroups";
import { QueryList, rowSubject } from "./QueryList";
import { TopLine } from "./TopLine";

const route = getRouteApi("/reader/$site/queries");
const VIEWS = { ...LENSES, groups: "Groups" };

export function QueriesPlace() {
  const { slug, site } = useSite();
  const search = route.useSearch();
  const navigate = route.useNavigate();
  const asked = useMemo(() => listAsked(search), [search]);
  const list = queryList.useHead(slug, asked, Boolean(site?.last_day));
  const [opened, setOpened] = useState<string | null>(null);
  const view = search.view ?? asked.lens;

  // A change of what is listed is a step to come back to; walking its rows is not.
  const change = useCallback(
    (part: Partial<QueriesSearch>) =>
      navigate({ search: (now) => ({ ...now, row: undefined, ...part }), replace: "row" in part }),
    [navigate],
  );
  function choose(chosen: Lens | "groups") {
    const lens = chosen === "groups" ? {} : { lens: chosen };
    change({ view: chosen === "groups" ? chosen : undefined, ...lens, sort: undefined, up: undefined });
  }

  const exported = search.view
    ? { base: findingFile(slug, "query-groups"), asked: scopeAsked(search), rows: "all groups" }
    : { base: findingFile(slug, asked.lens), asked, rows: `${list.data?.total ?? "all"} rows` };
  useListPlace({ title: `${VIEWS[view]} · ${site?.name ?? ""}`, open: setOpened, ...exported });

  if (!site) return null;
  if (!site.last_day) return <NoData slug={slug} />;
  return (
    <ListPlace
      name="queries"
      heading={`Queries: ${VIEWS[view]}`}
      top={
        <TopLine site={site} search={search} list={list.data} change={change} opened={opened} setOpened={setOpened} />
      }
      above={<Views views={VIEWS} chosen={view} choose={choose} aside={<ExportMenu {...exported} />} />}
      instead={search.view && <QueryGroups slug={slug} asked={scopeAsked(search)} search={search} change={change} />}
      failed={list}
      onMarked={
        site.may_change
          ? (marked) => (
              <DecideMarked
                site={site}
                marked={marked}
                subjectOf={rowSubject}
                finding={asked.lens}
                scope={scopeOf(asked)}
                words={["row", "rows"]}
              />
            )
          : undefined
      }
      head={<ListHead list={list.data} search={search} change={change} />}
      list={
        <QueryList
          slug={slug}
          asked={asked}
          list={list.data}
          stale={list.isPlaceholderData}
          search={search}
          change={change}
        />
      }
      evidence={<EvidencePane site={site} asked={asked} search={search} list={list.data} change={change} />}
    />
  );
}
