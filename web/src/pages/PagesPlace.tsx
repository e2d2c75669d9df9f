// Pages: which could gain the most, by which lever; and one page with everything about it.
import { getRouteApi } from "@tanstack/react-router";
import { useCallback, useMemo, useState } from "react";
import { pageList } from "../api/hooks";
import { useSite } from "../frame/Frame";
import { TopLine } from "../queries/TopLine";
import { ExportMenu } from "../shared/ExportMenu";
import { findingFile } from "../shared/export";
import { Method } from "../shared/Method";
import { Failed } from "../shared/parts";
import { NoData, useListPlace } from "../shared/place";
import { SplitPane } from "../shared/SplitPane";
import { type PagesSearch, pagesAsked } from "../state/search";
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
    <>
      <TopLine site={site} search={search} list={list.data} change={change} opened={opened} setOpened={setOpened} />
      <h1 className="sr-only">Pages</h1>
      {list.error ? (
        <Failed error={list.error} retry={() => list.refetch()} />
      ) : (
        <SplitPane
          name="pages"
          left={
            <section aria-label="List" className="flex h-full flex-col">
              <div className="border-rule border-b px-4 pt-2.5 pb-2">
                <div className="flex items-baseline justify-between gap-x-4">
                  <p className="min-h-5">{list.data?.sentences.join(" ")}</p>
                  <ExportMenu {...exported} />
                </div>
                <div className="flex flex-wrap items-baseline justify-between gap-x-4">
                  <LedgerKey />
                  <Method name="the-account-of-a-page" />
                </div>
                <div className="min-h-4">
                  {list.data?.lacking.map((said) => (
                    <p key={said} role="status" className="text-ochre text-xs">
                      {said}
                    </p>
                  ))}
                </div>
              </div>
              <PageList
                slug={slug}
                asked={asked}
                list={list.data}
                stale={list.isPlaceholderData}
                search={search}
                change={change}
              />
            </section>
          }
          right={<PageFile site={site} asked={asked} page={page} longest={list.data?.whole.longest ?? 0} />}
        />
      )}
    </>
  );
}
