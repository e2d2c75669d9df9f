// Rows on page two whose page covers most related terms, and the brief for the rest.
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { briefQuery, type Row, useMarks } from "../api/ask";
import type { Schemas } from "../api/client";
import { useBegin } from "../drafts/useBegin";
import { Named } from "../listing/cells";
import { FindingPlace, type PlaceProps } from "../listing/FindingPlace";
import { DecideMarked } from "../moves/DecideMarked";
import { Deciding } from "../moves/Deciding";
import { MarkWord } from "../moves/MarkWord";
import { download } from "../shared/export";
import { FigureTable } from "../shared/FigureTable";
import { count, NONE, path, place, share } from "../shared/format";
import { useKeys } from "../shared/keys";
import { PageLink } from "../shared/PageLink";
import { Part } from "../shared/Part";
import { Button, Notice } from "../shared/parts";
import { NO_FILTERS, optionsOf, type ViewOptions } from "../state/view";

export function PageTwoCandidates(props: PlaceProps) {
  const { site, search, change } = props;
  const options = optionsOf(search);
  const marks = useMarks(site.slug);
  const navigate = useNavigate();
  const subjectOf = (key: string) => {
    const [page = 0, query = 0] = key.split("-").map(Number);
    return { page, query };
  };
  return (
    <FindingPlace
      {...props}
      finding="page-two-candidates"
      options={options}
      onMarked={(marked) => (
        <DecideMarked
          site={site}
          marked={marked}
          subjectOf={subjectOf}
          finding="striking-distance"
          options={options}
          words={["row", "rows"]}
        />
      )}
      look={(list) => ({
        least: 40,
        rowHeight: 42,
        near: () => {},
        open: (row) =>
          navigate({ to: "/$site/pages", params: { site: site.slug }, search: { row: row.split("-")[0] ?? "" } }),
        cells: {
          query: (row) => (
            <Named
              name={row.query}
              title={row.page}
              mark={<MarkWord mark={marks.of({ page: row.page_id, query: row.query_id })} />}
              below={path(row.page)}
            />
          ),
          missing: (row) => (
            <span className="block truncate text-xs" title={row.missing.join(", ")}>
              {row.missing.join(", ") || NONE}
            </span>
          ),
        },
        widths: { missing: "11rem", coverage: "3.4rem", coverage_above_median: "3.2rem" },
        empty: list?.behind.queries ? (
          <Notice
            title="No row fits these filters"
            action={<Button onClick={() => change(NO_FILTERS)}>Remove the filters</Button>}
          >
            Rows at positions 11 to 20 appear here, where competing pages can be compared.
          </Notice>
        ) : (
          <Notice
            title="Nothing can be compared yet"
            action={
              <Button onClick={() => navigate({ to: "/$site/data", params: { site: site.slug } })}>Go to Data</Button>
            }
          >
            SERP captures show which pages rank above yours. Fetch those pages to compare their text.
          </Notice>
        ),
        waiting: "Comparing their text with yours.",
      })}
      evidence={(_, __, row) => <ReadyFile site={site} options={options} row={row} />}
    />
  );
}

type FileProps = { site: Schemas["SiteShown"]; options: ViewOptions; row: Row<"page-two-candidates"> | undefined };

function ReadyFile({ site, options, row }: FileProps) {
  const brief = useQuery({
    ...briefQuery(site.slug, options, row?.query_id ?? 0, row?.page ?? ""),
    enabled: row !== undefined,
  });
  const begin = useBegin(site.slug);
  const draft = () => row && site.may_change && begin(row.query_id, row.page_id, options);
  useKeys({ d: draft });
  if (!row) return null;
  const terms = brief.data?.terms ?? [];
  return (
    <article aria-label="Evidence" className="px-5 py-3" data-testid="ready-file">
      <h2 className="text-xl leading-6">{row.query}</h2>
      <p>
        on <PageLink address={row.page} />
      </p>
      <Deciding
        site={site}
        subject={{ page: row.page_id, query: row.query_id }}
        finding="striking-distance"
        name={row.query}
        options={options}
      />
      <p className="mt-2">
        It ranks at {place(row.position)} and covers {share(row.coverage)} of the related terms; the median of{" "}
        {count(row.competing_pages)} competing pages covers {share(row.coverage_above_median)}.
        {row.gain >= 1 &&
          ` A better position would bring about ${count(row.gain)} more ${Math.round(row.gain) === 1 ? "click" : "clicks"} a month.`}
      </p>
      <p className="mt-1 text-faint">{brief.data?.coverage_sentence}</p>
      <p className="mt-2 flex flex-wrap gap-3">
        {site.may_change && (
          <Button onClick={draft} title="Start a draft with the crawled text (d)">
            Draft it
          </Button>
        )}
        <Button
          onClick={() =>
            download(`/api/sites/${site.slug}/brief/${row.query_id}/document?page=${encodeURIComponent(row.page)}`)
          }
        >
          Brief for a writer (DOCX)
        </Button>
      </p>
      <Part title="Related terms" method="page-two-candidates">
        <FigureTable
          rows={terms}
          first={16}
          keyOf={(one) => one.text}
          columns={[
            {
              head: "term",
              cell: (one) => <span className={one.ours === 0 ? "text-rust" : ""}>{one.text}</span>,
            },
            { head: "pages", cell: (one) => one.tier, left: true },
            { head: "pages", cell: (one) => count(one.pages) },
            { head: "in 1,000 words", cell: (one) => `${place(one.per_thousand[0])} to ${place(one.per_thousand[2])}` },
            { head: "your page", cell: (one) => (one.ours === 0 ? "missing" : count(one.ours)) },
          ]}
        />
      </Part>
      {(brief.data?.outline.length ?? 0) > 0 && (
        <Part title="Their headings">
          <ol className="list-decimal pl-5">
            {brief.data?.outline.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ol>
        </Part>
      )}
    </article>
  );
}
