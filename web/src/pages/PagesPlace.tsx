// Pages: which could gain the most, by which lever; and one page with everything about it.
import { getRouteApi } from "@tanstack/react-router";
import { useCallback, useMemo, useState } from "react";
import { pageList } from "../api/hooks";
import { useSite } from "../frame/Frame";
import { DecideMarked } from "../moves/DecideMarked";
import { TopLine } from "../queries/TopLine";
import { findingFile } from "../shared/export";
import { ListPlace, ListSays } from "../shared/ListPlace";
import { Method } from "../shared/Method";
import { NoData, useListPlace } from "../shared/place";
import { type PagesSearch, pagesAsked, scopeOf } from "../state/search";
import { LedgerKey } from "./Ledger";
import { PageFile } from "./PageFile";
import { PageList } from "./PageList";

const route = getRouteApi("/reader/$site/pages");

export function PagesPlace() {
  const { slug, site } = useSite();
  const search = route.useSearch();
  const navigate = route.useNavigate();
  const asked = useMemo(() => pagesAsked(search), [search]);
  const list = pageList.useHead(slug, asked, Boolean(site?.last_day));
  const [opened, setOpened] = useState<string | null>(null);

  // A change of what is listed is a step to come back to; walking its pages is not.
  const change = useCallback(
    (part: Partial<PagesSearch>) =>
      navigate({ search: (now) => ({ ...now, page: undefined, ...part }), replace: "page" in part }),
    [navigate],
  );

  const exported = { base: findingFile(slug, "pages"), asked, rows: `${list.data?.total ?? "all"} pages` };
  useListPlace({ title: `Pages · ${site?.name ?? ""}`, open: setOpened, ...exported });

  if (!site) return null;
  if (!site.last_day) return <NoData slug={slug} />;
  const page = search.page ?? list.data?.rows[0]?.page_id;
  return (
    <ListPlace
      name="pages"
      heading="Pages"
      top={
        <TopLine site={site} search={search} list={list.data} change={change} opened={opened} setOpened={setOpened} />
      }
      failed={list}
      onMarked={
        site.may_change
          ? (marked) => (
              <DecideMarked
                site={site}
                marked={marked}
                subjectOf={pageSubject}
                finding={"pages"}
                scope={scopeOf(asked)}
                words={["page", "pages"]}
              />
            )
          : undefined
      }
      head={
        <ListSays sentences={list.data?.sentences} lacking={list.data?.lacking ?? []} exported={exported}>
          <div className="flex flex-wrap items-baseline justify-between gap-x-4">
            <LedgerKey />
            <Method name="the-account-of-a-page" />
          </div>
        </ListSays>
      }
      list={
        <PageList
          slug={slug}
          asked={asked}
          list={list.data}
          stale={list.isPlaceholderData}
          search={search}
          change={change}
        />
      }
      evidence={<PageFile site={site} asked={asked} page={page} longest={list.data?.whole.longest ?? 0} />}
    />
  );
}

const pageSubject = (key: string) => ({ page: Number(key) });
