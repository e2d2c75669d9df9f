// Everything about a query's SERP: the page to scale, its featured snippet, competing pages side by side, competitor queries.

import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { resultsQuery } from "../api/ask";
import type { Schemas } from "../api/client";
import { Deciding } from "../moves/Deciding";
import { FigureTable } from "../shared/FigureTable";
import { count, day, place } from "../shared/format";
import { Meaning } from "../shared/Hint";
import { PageLink } from "../shared/PageLink";
import { Part } from "../shared/Part";
import { Failed, Notice } from "../shared/parts";
import type { FindingName, ViewOptions } from "../state/view";
import { rowSubject } from "../state/view";
import { FeaturedSnippet } from "./FeaturedSnippet";
import { FetchCompeting } from "./FetchCompeting";
import { Sheet } from "./Sheet";
import { SideBySide } from "./SideBySide";

type Props = { site: Schemas["SiteShown"]; options: ViewOptions; row: string | undefined; finding: FindingName };

export function CaptureFile({ site, options, row, finding }: Props) {
  const { query } = rowSubject(row ?? "0-0");
  const file = useQuery({
    ...resultsQuery(site.slug, options, query ?? 0),
    enabled: query !== null && row !== undefined,
  });
  if (!row || !query) return null;
  if (file.error) return <Failed error={file.error} retry={() => file.refetch()} />;
  const answer = file.data;
  if (!answer) return <Notice title="Opening the SERP">Loading its SERP features and competing pages.</Notice>;
  return (
    <article
      aria-label="Evidence"
      className={`px-5 py-3 ${file.isPlaceholderData ? "opacity-60" : ""}`}
      data-testid="results-file"
    >
      <h2 className="text-xl leading-6">
        <Link to="/$site/query" params={{ site: site.slug }} search={{ query }} className="hover:underline">
          {answer.query}
        </Link>
      </h2>
      {answer.page && <PageLink address={answer.page} />}
      {answer.page_id !== null && (
        <Deciding
          site={site}
          subject={{ page: answer.page_id, query }}
          finding={finding}
          name={`“${answer.query}”`}
          options={options}
        />
      )}
      <ResultsParts
        site={site}
        answer={answer}
        boxFirst={finding === "featured-snippets"}
        aboveFirst={finding === "competing-pages"}
      />
    </article>
  );
}

/** The same within another place's file of a query. */
export function QueryResults({
  site,
  options,
  query,
}: {
  site: Schemas["SiteShown"];
  options: ViewOptions;
  query: number;
}) {
  const answer = useQuery(resultsQuery(site.slug, options, query)).data;
  return answer ? <ResultsParts site={site} answer={answer} /> : null;
}

type PartsProps = {
  site: Schemas["SiteShown"];
  answer: Schemas["CaptureFile"];
  boxFirst?: boolean;
  aboveFirst?: boolean;
};

function ResultsParts({ site, answer, boxFirst, aboveFirst }: PartsProps) {
  const box = answer.box && (
    <Part key="box" title="Featured snippet" method="featured-snippets">
      <FeaturedSnippet answer={answer.box} />
    </Part>
  );
  const above = answer.side_by_side && (
    <Part
      key="above"
      title="Compared with competing pages"
      method="competing-pages"
      aside={
        site.may_change && !answer.side_by_side.fetched && <FetchCompeting site={site} queries={[answer.query_id]} />
      }
    >
      <SideBySide answer={answer.side_by_side} />
    </Part>
  );
  const sheet = <SheetPart key="sheet" answer={answer} />;
  const order = boxFirst ? [box, sheet, above] : aboveFirst ? [above, sheet, box] : [sheet, box, above];
  return (
    <>
      {order}
      {answer.won.length > 0 && (
        <Part title="Competitor queries" method="competitor-queries">
          <FigureTable
            rows={answer.won}
            keyOf={(one) => one.query}
            first={6}
            columns={[
              { head: "query", cell: (one) => one.query },
              { head: "visits a month", cell: (one) => count(one.visits) },
              { head: "your impressions", cell: (one) => count(one.shown) },
              {
                head: "on your page",
                cell: (one) =>
                  one.exact_uses ? `${count(one.exact_uses)} times` : one.other_form_uses ? "in other forms" : "never",
              },
            ]}
          />
        </Part>
      )}
    </>
  );
}

function SheetPart({ answer }: { answer: Schemas["CaptureFile"] }) {
  const [at, setAt] = useState(0);
  const capture = answer.captures[at] ?? answer.captures[0];
  if (!capture) return <Part title="The SERP">This query has no SERP capture yet.</Part>;
  const found = answer.finding;
  return (
    <Part
      title={<Meaning of="sheet">The SERP to scale</Meaning>}
      method="serp-captures"
      aside={
        answer.captures.length > 1 && (
          <label className="text-xs">
            captured{" "}
            <select
              value={at}
              onChange={(event) => setAt(Number(event.target.value))}
              className="border border-strong-rule bg-sheet px-1"
            >
              {answer.captures.map((one, number) => (
                <option key={`${one.captured}${one.device}`} value={number}>
                  {day(one.captured)} {one.device}
                </option>
              ))}
            </select>
          </label>
        )
      }
    >
      <div className="space-y-1 font-serif text-lead">
        <p>
          {capture.sentence}
          {capture.screens_down != null && ` It is ${place(capture.screens_down)} screens down.`}
        </p>
        {capture.changed && <p>{capture.changed}</p>}
        {answer.costs.map((cost) => (
          <p key={cost}>{cost}</p>
        ))}
        {found?.explained && <p>SERP features above explain the low CTR; the title is not the cause.</p>}
      </div>
      <Sheet capture={capture} />
    </Part>
  );
}
