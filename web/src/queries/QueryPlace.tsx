// One query: every page that ranks for it, day by day, its search volume, its SERP.
import { getRouteApi, Link } from "@tanstack/react-router";
import { useCallback, useMemo, useState } from "react";
import { ask, STEADY, useMarks } from "../api/ask";
import type { Schemas } from "../api/client";
import { Relay } from "../clashes/Relay";
import { useSite } from "../frame/useSite";
import { NoData } from "../listing/place";
import { TopLine } from "../listing/TopLine";
import { Deciding } from "../moves/Deciding";
import { MarkWord } from "../moves/MarkWord";
import { QueryResults } from "../onpage/CaptureFile";
import { FigureTable } from "../shared/FigureTable";
import { count, NONE, place, share, shorten, change as signed } from "../shared/format";
import { useKeys } from "../shared/keys";
import { MeasureCards } from "../shared/MeasureCards";
import { Part } from "../shared/Part";
import { Picture } from "../shared/Picture";
import { Failed, Notice } from "../shared/parts";
import { optionsOf, type QuerySearch } from "../state/view";

const route = getRouteApi("/reader/$site/query");

export function QueryPlace() {
  const { slug, site } = useSite();
  const search = route.useSearch();
  const navigate = route.useNavigate();
  const options = useMemo(() => optionsOf(search), [search]);
  const file = ask.useQuery(
    "get",
    "/api/sites/{slug}/queries/{query_id}",
    { params: { path: { slug, query_id: search.query ?? 0 }, query: options } },
    { enabled: search.query !== undefined, staleTime: STEADY.staleTime },
  );
  const [opened, setOpened] = useState<string | null>(null);
  const change = useCallback(
    (part: Partial<QuerySearch>) => navigate({ search: (now) => ({ ...now, ...part }), replace: "of" in part }),
    [navigate],
  );
  const answer = file.data;
  const every = answer?.pages.map((page) => page.page) ?? [];
  const at = Math.max(answer?.pages.findIndex((page) => page.page_id === search.of) ?? 0, 0);
  const chosen = answer?.pages[at];
  const walk = (step: number) => {
    const next = file.data?.pages[at + step];
    if (next) change({ of: next.page_id });
  };
  useKeys({ j: () => walk(1), k: () => walk(-1) });

  if (!site) return null;
  if (!site.last_day) return <NoData slug={slug} />;
  const lanes = (answer?.pages ?? []).filter((page) => page.days.length > 0);
  return (
    <>
      <TopLine site={site} search={search} list={answer} change={change} opened={opened} setOpened={setOpened} />
      {search.query === undefined && <Notice title="No query chosen">Choose one in Queries.</Notice>}
      {file.error && <Failed error={file.error} retry={() => file.refetch()} />}
      {file.isLoading && <Notice title="Loading">Comparing its pages day by day.</Notice>}
      {answer && (
        <article
          className="mx-auto w-full max-w-5xl overflow-auto px-5 py-4"
          data-testid="query-file"
          aria-label="Query"
        >
          <h1 className="break-words text-2xl">{answer.query}</h1>
          <div className="mt-2 font-serif text-lead">
            <p>
              {answer.sentences.join(" ")} {answer.branded && "It is a branded query."}
            </p>
            {answer.clash && (
              <p>
                <Link
                  to="/$site/clashes"
                  params={{ site: slug }}
                  search={{ row: String(answer.query_id) }}
                  className="link"
                >
                  Clash
                </Link>
                : {answer.clash}
              </p>
            )}
          </div>
          <div className="mt-3 max-w-xl">
            <MeasureCards measures={answer.compared} compared={answer.before !== null} />
          </div>
          <Part title="All pages for it">
            <PagesFor slug={slug} answer={answer} chosen={chosen} pick={(of) => change({ of })} />
            {chosen && (
              <Deciding
                site={site}
                subject={{ page: chosen.page_id, query: answer.query_id }}
                finding=""
                name={`“${answer.query}” on ${shorten(chosen.page, every)}`}
                options={options}
                named
              />
            )}
          </Part>
          <Part title="Day by day" method="clashes">
            <Picture name={`days of ${answer.query}`}>
              <Relay lanes={lanes} first={answer.period.first} last={answer.period.last} />
            </Picture>
          </Part>
          {answer.results.length > 0 && <QueryResults site={site} options={options} query={answer.query_id} />}
        </article>
      )}
    </>
  );
}

type PagesProps = {
  slug: string;
  answer: Schemas["QueryFile"];
  chosen: Schemas["QueryFile"]["pages"][number] | undefined;
  pick: (page: number) => void;
};

function PagesFor({ slug, answer, chosen, pick }: PagesProps) {
  const marks = useMarks(slug);
  const every = answer.pages.map((page) => page.page);
  return (
    <div className="overflow-x-auto">
      <FigureTable
        rows={answer.pages}
        keyOf={(page) => page.page_id}
        chosen={(page) => page === chosen}
        pick={(page) => pick(page.page_id)}
        columns={[
          {
            head: "page",
            look: "max-w-72 truncate",
            title: (page) => page.page,
            cell: (page) => (
              <>
                <Link
                  to="/$site/pages"
                  params={{ site: slug }}
                  search={{ row: String(page.page_id) }}
                  className="inline-block min-h-6 leading-6 hover:underline"
                >
                  {shorten(page.page, every)}
                </Link>{" "}
                <MarkWord mark={marks.of({ page: page.page_id, query: answer.query_id })} />
              </>
            ),
          },
          { head: "clicks", cell: (page) => count(page.clicks) },
          { head: "change", cell: (page) => signed(page.change) },
          { head: "impressions", cell: (page) => count(page.impressions) },
          { head: "CTR", cell: (page) => share(page.ctr) },
          { head: "expected clicks", cell: (page) => count(page.expected_clicks), look: "text-faint" },
          { head: "position", cell: (page) => place(page.position) },
          { head: "before", cell: (page) => place(page.position_before), look: "text-faint" },
          {
            head: "covers it",
            cell: (page) => page.fit ?? NONE,
            title: (page) => (page.lacking?.length ? `lacks ${page.lacking.join(", ")}` : undefined),
          },
        ]}
      />
    </div>
  );
}
