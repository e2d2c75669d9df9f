// A summary of On the page for one page: its title's problems and missing queries, with links to the rest.
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { titleQuery } from "../api/ask";
import type { Schemas } from "../api/client";
import { FigureTable } from "../shared/FigureTable";
import { count } from "../shared/format";
import type { ViewOptions } from "../state/view";
import { problemWords } from "./problems";

type Props = { site: Schemas["SiteShown"]; options: ViewOptions; page: number };

export function OnPagePart({ site, options, page }: Props) {
  const answer = useQuery(titleQuery(site.slug, options, String(page))).data;
  if (!answer) return <p className="text-faint">Crawl the site to see which of its queries are on the page.</p>;
  const problems = answer.finding?.problems ?? [];
  const params = { site: site.slug };
  return (
    <>
      <p>
        {problems.length
          ? `Title and description: ${problems.map(problemWords).join(", ")}.`
          : "Title and description: no problem."}{" "}
        {problems.length > 0 && (
          <Link to="/$site/on-page" params={params} search={{ finding: "titles", row: String(page) }} className="link">
            Rewrite them
          </Link>
        )}
      </p>
      {answer.missing_queries.length > 0 && (
        <FigureTable
          className="mt-1"
          rows={answer.missing_queries}
          keyOf={(row) => row.query_id}
          columns={[
            {
              head: "missing queries",
              cell: (row) => (
                <Link to="/$site/on-page" params={params} search={{ row: `${page}-${row.query_id}` }} className="link">
                  {row.query}
                </Link>
              ),
            },
            { head: "on the page", cell: (row) => row.on_page, left: true },
            { head: "what to do", cell: (row) => row.what_to_do, left: true },
            { head: "opportunity a month", cell: (row) => count(row.gain) },
          ]}
        />
      )}
    </>
  );
}
