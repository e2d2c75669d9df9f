// A page's title and description as a results page shows them, rewritten with live length; and its main query.
import { useQuery, useQueryClient } from "@tanstack/react-query";
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
import type { Asked } from "../state/view";
import { problemWords } from "./problems";

type Props = { site: Schemas["SiteShown"]; asked: Asked; row: string | undefined };

export function TitleFile({ site, asked, row }: Props) {
  const file = useQuery({ ...titleQuery(site.slug, asked, row ?? "0"), enabled: row !== undefined });
  if (!row) return null;
  if (file.error) return <Failed error={file.error} retry={() => file.refetch()} />;
  const told = file.data;
  if (!told) return <Notice title="Opening the page">Loading its title, description and queries.</Notice>;
  return <Opened key={told.page_id} site={site} asked={asked} told={told} stale={file.isPlaceholderData} />;
}

type OpenedProps = { site: Schemas["SiteShown"]; asked: Asked; told: Schemas["TitleFile"]; stale: boolean };

function Opened({ site, asked, told, stale }: OpenedProps) {
  const [wanted, setWanted] = useState({ title: told.title ?? "", description: told.description ?? "" });
  const [moving, setMoving] = useState(false);
  const changed = wanted.title !== (told.title ?? "") || wanted.description !== (told.description ?? "");
  return (
    <article aria-label="Evidence" className={`px-5 py-3 ${stale ? "opacity-60" : ""}`} data-testid="title-file">
      <h2 className="text-xl leading-6">{told.title ?? "No title"}</h2>
      <PageLink address={told.page} />
      <Deciding site={site} subject={{ page: told.page_id }} finding="titles" name={path(told.page)} asked={asked} />
      {told.finding && (
        <p className="mt-2 font-serif text-[15px] leading-snug">
          Problems: {told.finding.problems.map(problemWords).join(", ")}. Its snippets lose about{" "}
          {count(told.finding.lost_month)} clicks a month. {told.finding.what_to_do}
        </p>
      )}
      <Part title="As the SERP shows it" method="titles-and-descriptions">
        <Snippet address={told.page} words={wanted} set={(part) => setWanted({ ...wanted, ...part })} />
        {changed && site.may_change && (
          <p className="mt-2 flex gap-3">
            <Button onClick={() => setMoving(true)}>Make it a move</Button>
            <Button plain onClick={() => setWanted({ title: told.title ?? "", description: told.description ?? "" })}>
              as it was
            </Button>
          </p>
        )}
        {moving && (
          <MakeMove
            site={site}
            subjects={[{ page: told.page_id }]}
            finding="titles"
            name={path(told.page)}
            asked={asked}
            wanted={wanted}
            close={() => setMoving(false)}
          />
        )}
      </Part>
      {told.shown.some((one) => one.title) && (
        <Part title="On captured SERPs">
          <FigureTable
            rows={told.shown}
            keyOf={(one) => one.query}
            columns={[
              { head: "query", cell: (one) => one.query },
              { head: "title there", cell: (one) => one.title ?? "–", left: true },
            ]}
          />
        </Part>
      )}
      <MainQuery site={site} told={told} />
    </article>
  );
}

/** Which query the page is for; one may be chosen in place of what the figures propose. */
function MainQuery({ site, told }: { site: Schemas["SiteShown"]; told: Schemas["TitleFile"] }) {
  const act = useAct();
  const queryClient = useQueryClient();
  const choose = (query_id: number | null) =>
    act(
      () =>
        api.PUT("/api/sites/{slug}/main-queries/{page_id}", {
          params: { path: { slug: site.slug, page_id: told.page_id } },
          body: { query_id },
        }),
      () => queryClient.invalidateQueries(),
    );
  if (told.candidates.length === 0) return null;
  return (
    <Part
      title="Its main query"
      aside={
        told.chosen &&
        site.may_change && (
          <Button plain onClick={() => choose(null)}>
            as proposed
          </Button>
        )
      }
    >
      <FigureTable
        rows={told.candidates}
        keyOf={(one) => one.query_id}
        columns={[
          {
            head: told.chosen ? "chosen by you" : "as proposed",
            cell: (one) => (
              <label className="inline-flex min-h-6 items-center gap-1.5">
                <input
                  type="radio"
                  name={`main-${told.page_id}`}
                  disabled={!site.may_change}
                  checked={one.query_id === told.main_query_id}
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
