// The rows of a lens, each with what is at stake.
import { useNavigate } from "@tanstack/react-router";
import type { Schemas } from "../api/client";
import { type Mark, queryList, type Row, useMarks, usePrefetchEvidence } from "../api/hooks";
import { MarkWord } from "../moves/MarkWord";
import type { Column } from "../shared/columns";
import { count, path, place, share, change as signed } from "../shared/format";
import { EvidenceMark, Notice } from "../shared/parts";
import { WalkedList } from "../shared/WalkedList";
import type { ListAsked, QueriesSearch, Sort } from "../state/search";
import { NothingFound } from "./NothingFound";

const ROW_HEIGHT = 42;
const FIGURES: Column<Row, Sort>[] = [
  {
    sort: "impressions",
    label: "shown",
    explains: "how often the page was shown for the query",
    width: "3.6rem",
    cell: (row) => count(row.impressions),
  },
  {
    sort: "ctr",
    label: "CTR",
    explains: "clicks over impressions",
    width: "3.3rem",
    low: true,
    cell: (row) => <span className={row.ctr < row.expected_ctr ? "text-rust" : "text-spruce"}>{share(row.ctr)}</span>,
  },
  {
    sort: "expected_ctr",
    label: "usual",
    explains: "the CTR that this site usually earns at the row's positions, day by day",
    width: "3.3rem",
    cell: (row) => <span className="text-faint">{share(row.expected_ctr)}</span>,
  },
  {
    sort: "position",
    label: "pos.",
    explains: "mean position, weighted by impressions; 1 is first",
    width: "2.3rem",
    low: true,
    cell: (row) => place(row.position),
  },
  {
    sort: "q_value",
    label: "evidence",
    explains: "how sure it is: firm (1 % false alarms), likely (10 %), thin",
    width: "3.5rem",
    low: true,
    cell: (row) => (
      <span className="text-xs">
        <EvidenceMark grade={row.evidence} />
      </span>
    ),
  },
  {
    sort: "shortfall",
    label: "by a better result",
    explains: "clicks of the period that its positions usually earn, less its own",
    width: "4rem",
    extra: true,
    cell: (row) => count(row.shortfall),
  },
  {
    sort: "headroom",
    label: "by a better place",
    explains: "clicks of the period that the better place would bring",
    width: "4rem",
    extra: true,
    cell: (row) => count(row.headroom),
  },
  {
    sort: "expected_clicks",
    label: "usual clicks",
    explains: "the clicks that this site usually earns at the row's positions, day by day",
    width: "4rem",
    extra: true,
    cell: (row) => count(row.expected_clicks),
  },
  {
    sort: "clicks_before",
    label: "clicks then",
    explains: "clicks in the days compared with",
    width: "4rem",
    extra: true,
    cell: (row) => count(row.clicks_before),
  },
];
type Props = {
  slug: string;
  asked: ListAsked;
  list: Schemas["Rows"] | undefined;
  stale: boolean;
  search: QueriesSearch;
  change: (part: Partial<QueriesSearch>) => void;
};

export const rowKey = (row: Row) => `${row.page}-${row.query}`;
export function rowSubject(key: string) {
  const [page, query] = key.split("-").map(Number);
  return { page, query };
}

export function QueryList({ slug, asked, list, stale, search, change }: Props) {
  const most = Math.max(...(list?.rows ?? []).map((row) => row.at_stake_month), 1);
  const near = usePrefetchEvidence(slug, asked);
  const marks = useMarks(slug);
  const navigate = useNavigate();
  function useRows(first: number, last: number) {
    return queryList.useRowsAt(slug, asked, first, last);
  }
  const columns: Column<Row, Sort>[] = [
    {
      sort: "query",
      label: "query, page",
      explains: "the query and the page shown for it",
      width: "minmax(8rem, 1fr)",
      left: true,
      low: true,
      cell: (row) => <Named row={row} mark={marks.of({ page: row.page, query: row.query })} />,
    },
    {
      sort: "at_stake",
      label: "at stake",
      explains: "clicks a month to gain: by a better result (rust) and by a better place (spruce)",
      width: "4.6rem",
      cell: (row) => (
        <>
          <div className="font-semibold font-serif text-[15px] leading-5">{count(row.at_stake_month)}</div>
          <AtStakeBar row={row} most={most} />
        </>
      ),
    },
    {
      sort: "clicks",
      label: "clicks",
      explains: "clicks in the period, and the change against the days compared with",
      width: "3.4rem",
      cell: (row) => (
        <>
          <div>{count(row.clicks)}</div>
          {row.change != null && (
            <div className={`text-xs ${row.change < 0 ? "text-rust" : "text-faint"}`}>{signed(row.change)}</div>
          )}
        </>
      ),
    },
    ...FIGURES,
  ];
  return (
    <WalkedList
      label="Rows"
      columns={columns}
      least={36}
      rowHeight={ROW_HEIGHT}
      total={list?.total ?? 0}
      first={list?.rows}
      useRowsAt={useRows}
      keyOf={rowKey}
      picked={search.row}
      pick={(row) => change({ row })}
      near={near}
      open={(row) => {
        const { lens: _, sort: __, up: ___, row: ____, ...scope } = search;
        navigate({
          to: "/$site/pages",
          params: { site: slug },
          search: { ...scope, text: undefined, evidence: undefined, page: Number(row.split("-")[0]) },
        });
      }}
      sorted={{ by: asked.sort, descending: asked.descending }}
      sortBy={(sort, up) => change({ sort, up: up || undefined })}
      stale={stale}
      listKey={JSON.stringify(asked)}
      empty={list && <NothingFound list={list} search={search} change={change} />}
      waiting={
        <Notice title="Adding up">The period's facts are added up and set beside the site's click curve.</Notice>
      }
    />
  );
}

function Named({ row, mark }: { row: Row; mark: Mark | undefined }) {
  return (
    <>
      <div className="truncate font-medium">{row.query_text}</div>
      <div className="flex items-baseline gap-1.5">
        {mark && <MarkWord mark={mark} />}
        <span className="truncate text-faint text-xs" title={row.page_text}>
          {path(row.page_text)}
        </span>
      </div>
    </>
  );
}

/** At stake in two parts, to the scale of the list: a better result first, a better place after it. */
function AtStakeBar({ row, most }: { row: Row; most: number }) {
  return (
    <div className="flex h-1 justify-end" aria-hidden="true">
      <div className="bg-rust" style={{ width: `${Math.min(row.snippet_month / most, 1) * 100}%` }} />
      <div className="bg-spruce" style={{ width: `${Math.min(row.rank_month / most, 1) * 100}%` }} />
    </div>
  );
}
