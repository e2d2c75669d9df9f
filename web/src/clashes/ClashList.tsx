// The clashes, the costliest first.
import { useNavigate } from "@tanstack/react-router";
import type { Schemas } from "../api/client";
import { type ClashRow, clashList, type Mark, useMarks, usePrefetchClash } from "../api/hooks";
import { MarkWord } from "../moves/Deciding";
import { count, path, place } from "../shared/format";
import { Button, EvidenceMark, Notice } from "../shared/parts";
import { type Column, WalkedList } from "../shared/WalkedList";
import type { ClashesAsked, ClashesSearch, ClashSort } from "../state/search";

const GRID = "grid grid-cols-[minmax(10rem,1fr)_5.6rem_4rem_3.4rem_3.8rem_3rem] gap-x-3 pr-3 pl-4";
const COLUMNS: Column<ClashSort>[] = [
  {
    sort: "query",
    label: "query, who should lead",
    explains: "the query, and the page proposed or chosen to own it",
    left: true,
    low: true,
  },
  { sort: "kind", label: "kind", explains: "double (a strength), relay, split or understudy", low: true },
  { sort: "loss", label: "lost", explains: "clicks a month that the clash costs" },
  { sort: "clicks", label: "clicks", explains: "clicks of all contenders in the period" },
  { sort: "impressions", label: "shown", explains: "how often contenders were shown in the period" },
  { sort: "best_position", label: "best", explains: "mean position of the best contender", low: true },
];

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
  const markOf = useMarks(slug);
  const navigate = useNavigate();
  function useRows(first: number, last: number) {
    return clashList.useRowsAt(slug, asked, first, last);
  }
  return (
    <WalkedList
      label="Clashes"
      columns={COLUMNS}
      grid={GRID}
      least="min-w-[36rem]"
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
      cells={(row) => <Cells row={row} mark={markOf({ query: row.query_id })} />}
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

function Cells({ row, mark }: { row: ClashRow; mark: Mark | undefined }) {
  return (
    <>
      <div role="gridcell" className="min-w-0">
        <div className="truncate font-medium">{row.query}</div>
        <div className="flex items-baseline gap-1.5">
          {mark && <MarkWord mark={mark} />}
          <span className="truncate text-faint text-xs" title={row.lead}>
            {row.decision ? row.decision.sentence : path(row.lead)}
          </span>
        </div>
      </div>
      <div role="gridcell" className="text-right">
        {row.kind}
      </div>
      <div role="gridcell" className="text-right">
        <div className="font-semibold font-serif text-[15px] leading-5">{count(row.loss_month)}</div>
        {row.kind !== "double" && (
          <div className="text-xs">
            <EvidenceMark grade={row.evidence} />
          </div>
        )}
      </div>
      <div role="gridcell" className="text-right">
        {count(row.clicks)}
      </div>
      <div role="gridcell" className="text-right">
        {count(row.impressions)}
      </div>
      <div role="gridcell" className="text-right">
        {place(row.best_position)}
      </div>
    </>
  );
}
