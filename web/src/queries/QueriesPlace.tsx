// Queries: rows with fewer, or more, clicks than their positions explain; and query groups.
import { useNavigate } from "@tanstack/react-router";
import { type Row, rowQuery, useFinding, useMarks, usePrefetch } from "../api/ask";
import { Changed, Figure, Named } from "../listing/cells";
import { sortedBy } from "../listing/FindingList";
import { FindingPlace, type PlaceProps } from "../listing/FindingPlace";
import { LensHead } from "../listing/LensHead";
import { DecideMarked } from "../moves/DecideMarked";
import { MarkWord } from "../moves/MarkWord";
import { oneIn, path, share } from "../shared/format";
import { Range } from "../shared/Range";
import { isLens, lensOptions, POSSIBLE, rowSubject } from "../state/view";
import { EvidencePane } from "./EvidencePane";
import { NothingFound } from "./NothingFound";
import { QueryGroups } from "./QueryGroups";

// All these findings have rows of one kind; the types of the first apply to all.
type Lens = "low-ctr";

export function QueriesPlace(props: PlaceProps) {
  const finding = props.search.finding ?? "low-ctr";
  if (finding === "query-groups") return <QueryGroups {...props} />;
  if (isLens(finding)) return <Lenses {...props} lens={finding as Lens} />;
  return <FindingPlace {...props} finding={finding} />;
}

/** The default request: rows with evidence; where there are none and no one chose, possible ones. */
function useOptions({ site, search }: PlaceProps, lens: Lens) {
  const options = lensOptions(search);
  const sure = useFinding(site.slug, lens, options, { sorted: sortedBy(search), enabled: site.last_day !== null });
  const none =
    sure.data?.total === 0 && !sure.isPlaceholderData && POSSIBLE.some((grade) => (sure.data?.in_lens[grade] ?? 0) > 0);
  const possible = search.evidence === undefined && none;
  return { options: possible ? { ...options, evidence: POSSIBLE } : options, possible };
}

function Lenses(props: PlaceProps & { lens: Lens }) {
  const { site, search, change, lens } = props;
  const navigate = useNavigate();
  const marks = useMarks(site.slug);
  const prefetch = usePrefetch();
  const { options, possible } = useOptions(props, lens);
  return (
    <FindingPlace
      {...props}
      finding={lens}
      options={options}
      onMarked={(marked) =>
        // A query over all its pages cannot be decided on: its pages can.
        search.by !== "query" && (
          <DecideMarked
            site={site}
            marked={marked}
            subjectOf={rowSubject}
            finding={lens}
            options={options}
            words={["row", "rows"]}
          />
        )
      }
      head={(list, method) => (
        <LensHead list={list} search={search} change={change} possible={possible} method={method} />
      )}
      look={(list) => {
        const rows = list?.rows ?? [];
        const most = Math.max(...rows.map((row) => row.opportunity_month), 1);
        const highest = Math.max(...rows.map((row) => Math.max(row.ctr, row.usual_ctr_high)), 0.01);
        return {
          least: 36,
          rowHeight: 42,
          near: (key) => prefetch(rowQuery(site.slug, options, lens, key)),
          open: (key) => {
            const { finding: _, sort: __, up: ___, row: ____, ...view } = search;
            const { page, query } = rowSubject(key);
            if (!page) {
              navigate({ to: "/$site/query", params: { site: site.slug }, search: { query: query ?? 0 } });
              return;
            }
            const row = String(page);
            navigate({
              to: "/$site/pages",
              params: { site: site.slug },
              search: { ...view, text: undefined, evidence: undefined, by: undefined, row },
            });
          },
          cells: {
            query: (row) => (
              <Named
                name={row.query ?? path(row.page ?? "")}
                title={row.page ?? row.query ?? ""}
                below={row.query && row.page && path(row.page)}
                mark={<MarkWord mark={marks.of({ page: row.page_id ?? null, query: row.query_id ?? null })} />}
              />
            ),
            lost_month: (row) => (
              <Figure
                value={row.lost_month}
                grade={row.evidence}
                below={
                  row.evidence === "possible" ? (
                    <span className="text-faint">{oneIn(row.probability)}</span>
                  ) : row.explained ? (
                    <span className="text-ochre" title="SERP features above it explain the low CTR">
                      explained
                    </span>
                  ) : (
                    <AtStakeBar row={row} most={most} />
                  )
                }
              />
            ),
            potential_month: (row) => (
              <Figure value={row.potential_month} grade={row.evidence} below={<AtStakeBar row={row} most={most} />} />
            ),
            clicks: (row) => <Changed value={row.clicks} change={row.change} />,
            ctr: (row) => <CtrRange row={row} most={highest} />,
            expected_ctr: (row) => <span className="text-faint">{share(row.expected_ctr)}</span>,
          },
          heads: { query: !list || list.by === "row" ? "query, page" : list.by, ctr: "CTR in its usual range" },
          widths: {
            lost_month: "4.9rem",
            potential_month: "4.9rem",
            clicks: "3.4rem",
            impressions: "3.6rem",
            ctr: "7.2rem",
            expected_ctr: "3.3rem",
            position: "2.4rem",
            evidence: "3.5rem",
          },
          empty: list && <NothingFound list={list} change={change} search={search} />,
          waiting: "Comparing the period with the click curve.",
        };
      }}
      evidence={(row, list) => (
        <EvidencePane site={site} lens={lens} options={options} row={row} list={list} change={change} />
      )}
    />
  );
}

/** The CTR against the range that rows like it usually get, with both numbers below. */
function CtrRange({ row, most }: { row: Row<Lens>; most: number }) {
  const usual = `${share(row.usual_ctr_low)} to ${share(row.usual_ctr_high)}`;
  return (
    <>
      <Range
        value={row.ctr}
        low={row.usual_ctr_low}
        high={row.usual_ctr_high}
        usual={row.expected_ctr}
        most={most}
        below="bad"
        words={`CTR ${share(row.ctr)}; usual at its positions: ${usual}`}
      />
      <div className="text-xs" aria-hidden="true">
        {share(row.ctr)} <span className="text-faint">of {share(row.expected_ctr)}</span>
      </div>
    </>
  );
}

/** Lost (rust) and potential clicks (spruce), on the list's scale. */
function AtStakeBar({ row, most }: { row: Row<Lens>; most: number }) {
  return (
    <div className="flex h-1 justify-end" aria-hidden="true">
      <div className="bg-rust" style={{ width: `${Math.min(row.lost_month / most, 1) * 100}%` }} />
      <div className="bg-spruce" style={{ width: `${Math.min(row.potential_month / most, 1) * 100}%` }} />
    </div>
  );
}
