// Pages: which lose most or could gain most, by which lever; and everything about one page.
import { pageQuery, useMarks, usePrefetch } from "../api/ask";
import { Changed, Gain } from "../listing/cells";
import { FindingPlace, type PlaceProps } from "../listing/FindingPlace";
import { DecideMarked } from "../moves/DecideMarked";
import { MarkWord } from "../moves/MarkWord";
import { path } from "../shared/format";
import { Button, Notice } from "../shared/parts";
import { NO_FILTERS, optionsOf } from "../state/view";
import { LedgerAroundAxis, LedgerKey } from "./Ledger";
import { PageFile } from "./PageFile";
import { PageTwoCandidates } from "./PageTwoCandidates";

const pageSubject = (key: string) => ({ page: Number(key) });

export function PagesPlace(props: PlaceProps) {
  const finding = props.search.finding ?? "pages";
  if (finding === "page-two-candidates") return <PageTwoCandidates {...props} />;
  if (finding === "pages") return <Accounts {...props} />;
  return <FindingPlace {...props} finding={finding} />;
}

function Accounts(props: PlaceProps) {
  const { site, search, change } = props;
  const marks = useMarks(site.slug);
  const prefetch = usePrefetch();
  const options = optionsOf(search);
  return (
    <FindingPlace
      {...props}
      finding="pages"
      options={options}
      onMarked={(marked) => (
        <DecideMarked
          site={site}
          marked={marked}
          subjectOf={pageSubject}
          finding="pages"
          options={options}
          words={["page", "pages"]}
        />
      )}
      below={() => <LedgerKey />}
      look={(list) => ({
        least: 36,
        rowHeight: 52,
        near: (key) => prefetch(pageQuery(site.slug, options, key)),
        open: () => document.querySelector<HTMLElement>("[data-testid=page-file]")?.focus(),
        cells: {
          page: (row) => (
            <>
              <div className="flex items-baseline gap-2">
                <span className="truncate font-medium" title={row.page}>
                  {path(row.page)}
                </span>
                <span className="shrink-0 text-faint text-xs max-sm:hidden">{row.type}</span>
                <MarkWord mark={marks.of({ page: row.page_id })} />
                <RowsDecided marks={marks.onRowsOf(row.page_id)} />
              </div>
              <LedgerAroundAxis row={row} added={list?.whole.longest_added ?? 0} />
            </>
          ),
          gain_month: (row) => <Gain row={row} grade={row.evidence} />,
          clicks: (row) => <Changed value={row.clicks} change={row.change} />,
        },
        widths: {
          gain_month: "5rem",
          clicks: "4.2rem",
          worth: "4.2rem",
          sessions: "4.2rem",
        },
        empty: (
          <Notice
            title="No page fits these filters"
            action={<Button onClick={() => change(NO_FILTERS)}>Remove the filters</Button>}
          >
            No page with impressions or visits fits.
          </Notice>
        ),
        waiting: "Adding up rows, clashes and visits.",
      })}
      evidence={(row, list) => <PageFile site={site} options={options} row={row} longest={list?.whole.longest ?? 0} />}
    />
  );
}

/** The number of a page's queries with a decision. */
function RowsDecided({ marks }: { marks: { query_text: string | null; word: string }[] }) {
  if (marks.length === 0) return null;
  return (
    <span
      className="shrink-0 border border-rule px-1 text-faint text-xs"
      title={marks.map((one) => `“${one.query_text}”: ${one.word}`).join("\n")}
    >
      {marks.length === 1 ? marks[0]?.word : `${marks.length} decided`}
    </span>
  );
}
