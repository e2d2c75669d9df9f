// On the page: missing queries, titles, featured snippets, and what ranks above the site's result.
import { useNavigate } from "@tanstack/react-router";
import { type Answer, type Row, resultsQuery, stripQuery, titleQuery, useMarks, usePrefetch } from "../api/ask";
import { Figure, Named } from "../listing/cells";
import type { Look } from "../listing/FindingList";
import { FindingPlace, type PlaceProps } from "../listing/FindingPlace";
import { firstOpen } from "../listing/needs";
import { DecideMarked } from "../moves/DecideMarked";
import { MarkWord } from "../moves/MarkWord";
import { Chips } from "../shared/Chips";
import { EvidenceMark } from "../shared/EvidenceMark";
import { path, place, share } from "../shared/format";
import { Button, Notice } from "../shared/parts";
import {
  type FindingName,
  findingsOf,
  isSure,
  NO_FILTERS,
  ON_PAGE,
  type OnPage,
  optionsOf,
  rowSubject,
} from "../state/view";
import { CaptureFile } from "./CaptureFile";
import { FetchCompeting } from "./FetchCompeting";
import { MissingQueryFile } from "./MissingQueryFile";
import { problemWords } from "./problems";
import { TitleFile } from "./TitleFile";

const OF_QUERY = ["featured-snippets", "serp-captures", "competing-pages"] as const;
type OfQuery = (typeof OF_QUERY)[number];
const isOfQuery = (finding: FindingName): finding is OfQuery => OF_QUERY.some((one) => one === finding);
// All these lists have rows with a query and its page.
type Details = Row<"competing-pages">;

const TO_DO: OnPage[] = ["missing", "other forms", "low on the page"];

export function OnPagePlace(props: PlaceProps) {
  const finding = props.search.finding ?? firstOpen(props.site, findingsOf("on-page"));
  if (finding === "missing-queries") return <MissingQueries {...props} />;
  if (finding === "titles") return <Titles {...props} />;
  if (finding === "competitor-queries") return <Gaps {...props} />;
  if (isOfQuery(finding)) return <OfQueries {...props} finding={finding} />;
  return <FindingPlace {...props} finding={finding} />;
}

/** Shared by the lists of this place. */
function useLook(props: PlaceProps) {
  const { site, change } = props;
  const navigate = useNavigate();
  const marks = useMarks(site.slug);
  const prefetch = usePrefetch();
  const options = optionsOf(props.search);
  const toPage = (row: string) =>
    navigate({ to: "/$site/pages", params: { site: site.slug }, search: { row: row.split("-")[0] ?? "" } });
  const name = (row: { query?: string | null; page?: string | null; page_id?: number | null; query_id?: number }) => (
    <Named
      name={row.query}
      title={row.page ?? ""}
      mark={<MarkWord mark={marks.of({ page: row.page_id ?? null, query: row.query_id ?? null })} />}
      below={row.page && path(row.page)}
    />
  );
  const rest = {
    least: 36,
    rowHeight: 42,
    open: toPage,
    empty: (
      <Notice
        title="Nothing to show here"
        action={<Button onClick={() => change(NO_FILTERS)}>Remove the filters</Button>}
      >
        No row fits these filters.
      </Notice>
    ),
    waiting: "Counting words and phrases.",
  };
  return { options, marks, prefetch, name, rest };
}

function Marked({ site, options, finding, marked, ofPages }: MarkedProps) {
  return (
    <DecideMarked
      site={site}
      marked={marked}
      subjectOf={ofPages ? (row) => ({ page: Number(row) }) : rowSubject}
      finding={finding}
      options={options}
      words={ofPages ? ["page", "pages"] : ["row", "rows"]}
    />
  );
}
type MarkedProps = {
  site: PlaceProps["site"];
  options: ReturnType<typeof optionsOf>;
  finding: FindingName;
  marked: Parameters<typeof DecideMarked>[0]["marked"];
  ofPages?: true;
};

function MissingQueries(props: PlaceProps) {
  const { site, search, change } = props;
  const { options, prefetch, name, rest } = useLook(props);
  const shown = { ...options, on_page: search.on_page ?? TO_DO };
  return (
    <FindingPlace
      {...props}
      finding="missing-queries"
      options={shown}
      onMarked={(marked) => <Marked site={site} options={options} finding="missing-queries" marked={marked} />}
      below={(list) => (
        <Chips
          label="on the page"
          known={ON_PAGE}
          chosen={shown.on_page}
          count={(one) => list && (list?.by_on_page[one] ?? 0)}
          choose={(on_page) => change({ on_page: on_page as OnPage[] })}
        />
      )}
      look={() => ({
        ...rest,
        near: (row) => {
          const { page, query } = rowSubject(row);
          if (page && query) prefetch(stripQuery(site.slug, options, page, query));
        },
        cells: {
          query: name,
          gain: (row) => (
            <Figure value={row.gain} below={isSure(row.evidence) && <EvidenceMark grade={row.evidence} />} />
          ),
          on_page: (row) => (
            <span className={row.on_page === "missing" ? "text-rust" : "text-faint"}>{row.on_page}</span>
          ),
          first_use_share: (row) => share(row.first_use_share),
        },
        widths: {
          gain: "4.4rem",
          on_page: "4.8rem",
          exact_uses: "2.8rem",
          other_form_uses: "3.6rem",
          first_use_share: "3.2rem",
        },
        heads: { other_form_uses: "other forms" },
      })}
      evidence={(row) => <MissingQueryFile site={site} options={options} row={row} />}
    />
  );
}

function Titles(props: PlaceProps) {
  const { site, search, change } = props;
  const { options, marks, prefetch, rest } = useLook(props);
  return (
    <FindingPlace
      {...props}
      finding="titles"
      options={options}
      onMarked={(marked) => <Marked site={site} options={options} finding="titles" marked={marked} ofPages />}
      below={(list) => {
        const known = Object.entries(list?.by_problem ?? {}).sort(([, one], [, other]) => other - one);
        return (
          <Chips
            label="problem"
            known={[...new Set([...known.map(([one]) => one), ...(search.problem ?? [])])]}
            words={problemWords}
            chosen={search.problem ?? []}
            count={(one) => list && (list?.by_problem[one] ?? 0)}
            choose={(problem) => change({ problem: (problem.length ? problem : undefined) as typeof search.problem })}
          />
        );
      }}
      look={() => ({
        ...rest,
        near: (row) => prefetch(titleQuery(site.slug, options, row)),
        cells: {
          page: (row) => (
            <Named
              name={row.title ?? "no title"}
              title={row.page}
              mark={<MarkWord mark={marks.of({ page: row.page_id })} />}
              below={path(row.page)}
            />
          ),
          lost_month: (row) => <Figure value={row.lost_month} />,
          problems: (row) => (
            <span className="block truncate text-xs" title={row.problems.map(problemWords).join(", ")}>
              {row.problems.map(problemWords).join(", ")}
            </span>
          ),
          title_pixels: (row) => (
            <span className={row.title_pixels > 600 ? "text-rust" : ""}>{Math.round(row.title_pixels)}</span>
          ),
        },
        widths: { lost_month: "4.4rem", problems: "13rem", title_pixels: "3rem" },
      })}
      evidence={(row) => <TitleFile site={site} options={options} row={row} />}
    />
  );
}

function OfQueries(props: PlaceProps & { finding: OfQuery }) {
  const { site, finding } = props;
  const { options, prefetch, name, rest } = useLook(props);
  const look = {
    ...rest,
    near: (row: string) => {
      const { query } = rowSubject(row);
      if (query) prefetch(resultsQuery(site.slug, options, query));
    },
    cells: {
      query: name,
      gain: (row: Row<"featured-snippets">) => (
        <Figure value={row.gain} below={row.opening && <span className="text-spruce text-xs">open</span>} />
      ),
      screens_down: (row: Row<"serp-captures">) => place(row.screens_down),
      expected_with_features: (row: Row<"serp-captures">) => (
        <Figure
          value={row.expected_with_features}
          below={row.explained && <span className="text-ochre text-xs">explained</span>}
        />
      ),
      out_of_range: (row: Details) => (
        <span className="block truncate text-xs" title={row.out_of_range.join(", ").replaceAll("_", " ")}>
          {row.out_of_range.join(", ").replaceAll("_", " ")}
        </span>
      ),
    },
    widths: {
      gain: "4.4rem",
      kind: "4.4rem",
      holder: "6.5rem",
      advice: "5.4rem",
      out_of_range: "11rem",
      captured: "5.2rem",
      blocks_above: "3.4rem",
      screens_down: "3.6rem",
      rank: "2.8rem",
      rank_within_reach: "3.2rem",
      stronger_above: "3.6rem",
      expected_with_features: "4.4rem",
    },
  };
  return (
    <FindingPlace
      {...props}
      finding={finding as "competing-pages"}
      options={options}
      onMarked={(marked) => (
        <>
          <Marked site={site} options={options} finding={finding} marked={marked} />
          <FetchCompeting site={site} queries={[...marked.keys].map((row) => rowSubject(row).query ?? 0)} />
        </>
      )}
      below={(list) =>
        finding === "competing-pages"
          ? site.may_change && <FetchCompeting site={site} />
          : finding === "serp-captures" && <Rivals list={list as unknown as Answer<"serp-captures"> | undefined} />
      }
      look={() => look as unknown as Look<"competing-pages">}
      evidence={(row) => <CaptureFile site={site} options={options} row={row} finding={finding} />}
    />
  );
}

const COMPETITORS_SHOWN = 4;

/** The hosts most often above the site's result, by search volume. */
function Rivals({ list }: { list: Answer<"serp-captures"> | undefined }) {
  const rivals = list?.rivals ?? [];
  if (rivals.length === 0) return null;
  const answer = (one: (typeof rivals)[number]) => `${one.host} (${one.queries})`;
  return (
    <p className="text-faint text-xs" title={rivals.map(answer).join(", ")}>
      Competitors that rank above most often, by searches (and queries):{" "}
      {rivals.slice(0, COMPETITORS_SHOWN).map(answer).join(", ")}
      {rivals.length > COMPETITORS_SHOWN && ` and ${rivals.length - COMPETITORS_SHOWN} more`}.
    </p>
  );
}

function Gaps(props: PlaceProps) {
  const { site } = props;
  const { options, rest } = useLook(props);
  return (
    <FindingPlace
      {...props}
      finding="competitor-queries"
      options={options}
      look={() => ({
        ...rest,
        open: () => {},
        near: () => {},
        cells: {
          query: (row) => <Named name={row.query} title={row.page} mark={null} below={path(row.page)} />,
          visits: (row) => (
            <Figure value={row.visits} below={row.of_rival && <span className="text-xs">their name</span>} />
          ),
          won_by: (row) => (
            <span className="block truncate text-xs" title={row.won_by}>
              {row.won_by.replace(/^https?:\/\/(www\.)?/, "")}
            </span>
          ),
        },
        widths: { visits: "3.8rem", won_by: "11rem", shown: "3.6rem", exact_uses: "2.8rem", searches: "4rem" },
      })}
      evidence={(_, __, row) => row && <GapEvidence site={site} options={options} found={row} />}
    />
  );
}

type GapProps = { site: PlaceProps["site"]; options: ReturnType<typeof optionsOf>; found: Row<"competitor-queries"> };
function GapEvidence({ site, options, found }: GapProps) {
  return <MissingQueryFile site={site} options={options} row={`${found.page_id}-0`} phrase={found.query} won={found} />;
}
