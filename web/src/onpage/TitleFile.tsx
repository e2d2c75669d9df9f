// A page's title and description as on a SERP, editable with live length; and its main query.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { titleQuery } from "../api/ask";
import { api, type Schemas } from "../api/client";
import { Deciding } from "../moves/Deciding";
import { MakeMove } from "../moves/MakeMove";
import { FigureTable } from "../shared/FigureTable";
import { count, path, place } from "../shared/format";
import { PageLink } from "../shared/PageLink";
import { Part } from "../shared/Part";
import { Button, Failed, Notice } from "../shared/parts";
import { Snippet } from "../shared/Snippet";
import { useAct } from "../shared/useAct";
import type { ViewOptions } from "../state/view";
import { problemWords } from "./problems";

type Props = { site: Schemas["SiteShown"]; options: ViewOptions; row: string | undefined };

export function TitleFile({ site, options, row }: Props) {
  const file = useQuery({ ...titleQuery(site.slug, options, row ?? "0"), enabled: row !== undefined });
  if (!row) return null;
  if (file.error) return <Failed error={file.error} retry={() => file.refetch()} />;
  const answer = file.data;
  if (!answer) return <Notice title="Opening the page">Loading its title, description and queries.</Notice>;
  return <Opened key={answer.page_id} site={site} options={options} answer={answer} stale={file.isPlaceholderData} />;
}

type OpenedProps = { site: Schemas["SiteShown"]; options: ViewOptions; answer: Schemas["TitleFile"]; stale: boolean };

function Opened({ site, options, answer, stale }: OpenedProps) {
  const [snippet, setSnippet] = useState({ title: answer.title ?? "", description: answer.description ?? "" });
  const [moving, setMoving] = useState(false);
  const changed = snippet.title !== (answer.title ?? "") || snippet.description !== (answer.description ?? "");
  return (
    <article aria-label="Evidence" className={`px-5 py-3 ${stale ? "opacity-60" : ""}`} data-testid="title-file">
      <h2 className="text-xl leading-6">{answer.title ?? "No title"}</h2>
      <PageLink address={answer.page} />
      <Deciding
        site={site}
        subject={{ page: answer.page_id }}
        finding="titles"
        name={path(answer.page)}
        options={options}
      />
      {answer.finding && (
        <p className="mt-2 font-serif text-lead">
          Problems: {answer.finding.problems.map(problemWords).join(", ")}. Its snippets lose about{" "}
          {count(answer.finding.lost_month)} clicks a month. {answer.finding.what_to_do}
        </p>
      )}
      <Part title="As the SERP shows it" method="titles-and-descriptions">
        <Snippet address={answer.page} words={snippet} set={(part) => setSnippet({ ...snippet, ...part })} />
        {changed && site.may_change && (
          <p className="mt-2 flex gap-3">
            <Button onClick={() => setMoving(true)}>Make it a move</Button>
            <Button
              plain
              onClick={() => setSnippet({ title: answer.title ?? "", description: answer.description ?? "" })}
            >
              as it was
            </Button>
          </p>
        )}
        {moving && (
          <MakeMove
            site={site}
            subjects={[{ page: answer.page_id }]}
            finding="titles"
            name={path(answer.page)}
            options={options}
            snippet={snippet}
            close={() => setMoving(false)}
          />
        )}
      </Part>
      {answer.shown.some((one) => one.title) && (
        <Part title="On captured SERPs">
          <FigureTable
            rows={answer.shown}
            keyOf={(one) => one.query}
            columns={[
              { head: "query", cell: (one) => one.query },
              { head: "title there", cell: (one) => one.title ?? "–", left: true },
            ]}
          />
        </Part>
      )}
      <MainQuery site={site} answer={answer} />
    </article>
  );
}

/** The page's main query; people can choose another than the suggested one. */
function MainQuery({ site, answer }: { site: Schemas["SiteShown"]; answer: Schemas["TitleFile"] }) {
  const act = useAct();
  const choose = (query_id: number | null) =>
    act(() =>
      api.PUT("/api/sites/{slug}/main-queries/{page_id}", {
        params: { path: { slug: site.slug, page_id: answer.page_id } },
        body: { query_id },
      }),
    );
  if (answer.candidates.length === 0) return null;
  return (
    <Part
      title="Its main query"
      aside={
        answer.chosen &&
        site.may_change && (
          <Button plain onClick={() => choose(null)}>
            as proposed
          </Button>
        )
      }
    >
      <FigureTable
        rows={answer.candidates}
        keyOf={(one) => one.query_id}
        columns={[
          {
            head: answer.chosen ? "chosen by you" : "as proposed",
            cell: (one) => (
              <label className="inline-flex min-h-6 items-center gap-1.5">
                <input
                  type="radio"
                  name={`main-${answer.page_id}`}
                  disabled={!site.may_change}
                  checked={one.query_id === answer.main_query_id}
                  onChange={() => choose(one.query_id)}
                />
                {one.query}
              </label>
            ),
          },
          { head: "clicks", cell: (one) => count(one.clicks) },
          { head: "impressions", cell: (one) => count(one.impressions) },
          { head: "position", cell: (one) => place(one.position) },
          { head: "fit", cell: (one) => one.fit ?? "–" },
        ]}
      />
    </Part>
  );
}
