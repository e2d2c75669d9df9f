// The clashes, the costliest first.
import { useNavigate } from "@tanstack/react-router";
import type { Schemas } from "../api/client";
import { type ClashRow, clashList, type Mark, useMarks, usePrefetchClash } from "../api/hooks";
import { MarkWord } from "../moves/MarkWord";
import type { Column } from "../shared/columns";
import { count, path, place } from "../shared/format";
import { Button, EvidenceMark, Notice } from "../shared/parts";
import { WalkedList } from "../shared/WalkedList";
import type { ClashesAsked, ClashesSearch, ClashSort } from "../state/search";

type Props = {
  slug: string;
  asked: ClashesAsked;
  list: Schemas["Clashes"] | undefined;
  stale: boolean;
  search: ClashesSearch;
  change: (part: Partial<ClashesSearch>) => void;
};

export function ClashList({ slug, asked, list, stale, search, change }: Props) {
  const near = usePrefetchClash(slug, asked);
  const marks = useMarks(slug);
  const navigate = useNavigate();
  function useRows(first: number, last: number) {
    return clashList.useRowsAt(slug, asked, first, last);
  }
  const columns: Column<ClashRow, ClashSort>[] = [
    {
      sort: "query",
      label: "query, who should lead",
      explains: "the query, and the page proposed or chosen to own it",
      width: "minmax(10rem, 1fr)",
      left: true,
      low: true,
      cell: (row) => <Named row={row} mark={marks.of({ query: row.query_id })} />,
    },
    ...FIGURES,
  ];
  return (
    <WalkedList
      label="Clashes"
      columns={columns}
      least={36}
      rowHeight={46}
      total={list?.total ?? 0}
      first={list?.rows}
      useRowsAt={useRows}
      keyOf={(row) => String(row.query_id)}
      picked={search.query === undefined ? undefined : String(search.query)}
      pick={(query) => change({ query: Number(query) })}
      near={near}
      open={(query) => {
        const row = list?.rows.find((one) => String(one.query_id) === query);
        if (row) navigate({ to: "/$site/pages", params: { site: slug }, search: { page: row.lead_id } });
      }}
      sorted={{ by: asked.sort, descending: asked.descending }}
      sortBy={(sort, up) => change({ sort, up: up || undefined })}
      stale={stale}
      listKey={JSON.stringify(asked)}
      empty={
        <Notice
          title="No clash here"
          action={
            <Button
              onClick={() =>
                change({
                  text: undefined,
                  section: undefined,
                  type: undefined,
                  group: undefined,
                  decided: undefined,
                  evidence: undefined,
                })
              }
            >
              Take the filters off
            </Button>
          }
        >
          No two pages fight over a query of these filters that is shown often enough to tell.
        </Notice>
      }
      waiting={<Notice title="Looking for clashes">Each query's pages are followed day by day.</Notice>}
    />
  );
}

const FIGURES: Column<ClashRow, ClashSort>[] = [
  {
    sort: "kind",
    label: "kind",
    explains: "double (a strength), relay, split or understudy",
    width: "5.6rem",
    low: true,
    cell: (row) => row.kind,
  },
  {
    sort: "loss",
    label: "lost",
    explains: "clicks a month that the clash costs",
    width: "4rem",
    cell: (row) => (
      <>
        <div className="font-semibold font-serif text-[15px] leading-5">{count(row.loss_month)}</div>
        {row.kind !== "double" && (
          <div className="text-xs">
            <EvidenceMark grade={row.evidence} />
          </div>
        )}
      </>
    ),
  },
  {
    sort: "clicks",
    label: "clicks",
    explains: "clicks of all contenders in the period",
    width: "3.4rem",
    cell: (row) => count(row.clicks),
  },
  {
    sort: "impressions",
    label: "shown",
    explains: "how often contenders were shown in the period",
    width: "3.8rem",
    cell: (row) => count(row.impressions),
  },
  {
    sort: "best_position",
    label: "best",
    explains: "mean position of the best contender",
    width: "3rem",
    low: true,
    cell: (row) => place(row.best_position),
  },
  {
    sort: "hand_offs",
    label: "hand-offs",
    explains: "how often the best page changes, in 100 days",
    width: "4.2rem",
    extra: true,
    cell: (row) => count(row.hand_offs),
  },
];

function Named({ row, mark }: { row: ClashRow; mark: Mark | undefined }) {
  return (
    <>
      <div className="truncate font-medium">{row.query}</div>
      <div className="flex items-baseline gap-1.5">
        {mark && <MarkWord mark={mark} />}
        <span className="truncate text-faint text-xs" title={row.lead}>
          {row.decision ? row.decision.sentence : path(row.lead)}
        </span>
      </div>
    </>
  );
}
