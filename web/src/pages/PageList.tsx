// Every page of the site, the most to gain first, one ledger line each.
import type { Schemas } from "../api/client";
import { type Mark, type PageRow, pageList, useMarks, usePrefetchPage } from "../api/hooks";
import { MarkWord } from "../moves/Deciding";
import { count, path, place, change as signed } from "../shared/format";
import { Button, EvidenceMark, Notice } from "../shared/parts";
import { type Column, WalkedList } from "../shared/WalkedList";
import type { PageSort, PagesAsked, PagesSearch } from "../state/search";
import { Ledger } from "./Ledger";

const ROW_HEIGHT = 52;
const GRID = "grid grid-cols-[minmax(11rem,1fr)_4.2rem_4.2rem_3.2rem_2.6rem_4.2rem] gap-x-3 pr-3 pl-4";

const COLUMNS: Column<PageSort>[] = [
  {
    sort: "page",
    label: "page",
    explains: "the address, and its clicks beside what could be gained",
    left: true,
    low: true,
  },
  { sort: "gain", label: "to gain", explains: "clicks a month to gain at least: the cautious figure" },
  {
    sort: "worth",
    label: "worth",
    explains: "what is at stake in the period is worth, by the visits' value or the market's price",
  },
  { sort: "clicks", label: "clicks", explains: "clicks in the period, and the change against the days compared with" },
  { sort: "position", label: "pos.", explains: "mean position, weighted by impressions; 1 is first", low: true },
  { sort: "sessions", label: "sessions", explains: "organic sessions of the period" },
];

type Props = {
  slug: string;
  asked: PagesAsked;
  list: Schemas["Pages"] | undefined;
  stale: boolean;
  search: PagesSearch;
  change: (part: Partial<PagesSearch>) => void;
};

export function PageList({ slug, asked, list, stale, search, change }: Props) {
  const near = usePrefetchPage(slug, asked);
  const markOf = useMarks(slug);
  function useRows(first: number, last: number) {
    return pageList.useRowsAt(slug, asked, first, last);
  }
  const longest = list?.whole.longest ?? 0;
  return (
    <WalkedList
      label="Pages"
      columns={COLUMNS}
      grid={GRID}
      least="min-w-[36rem]"
      rowHeight={ROW_HEIGHT}
      total={list?.total ?? 0}
      first={list?.rows}
      useRowsAt={useRows}
      keyOf={(row) => String(row.page_id)}
      picked={search.page === undefined ? undefined : String(search.page)}
      pick={(page) => change({ page: Number(page) })}
      near={near}
      open={() => document.querySelector<HTMLElement>("[data-testid=page-file]")?.focus()}
      sorted={{ by: asked.sort, descending: asked.descending }}
      sortBy={(sort, up) => change({ sort, up: up || undefined })}
      stale={stale}
      listKey={JSON.stringify(asked)}
      cells={(row) => <Cells row={row} longest={longest} mark={markOf({ page: row.page_id })} />}
      empty={<NoPage change={change} />}
      waiting={<Notice title="Adding up">Every page's account is made from its rows, clashes and visits.</Notice>}
    />
  );
}

function Cells({ row, longest, mark }: { row: PageRow; longest: number; mark: Mark | undefined }) {
  return (
    <>
      <div role="gridcell" className="min-w-0">
        <div className="flex items-baseline gap-2">
          <span className="truncate font-medium" title={row.page}>
            {path(row.page)}
          </span>
          <span className="shrink-0 text-faint text-xs">{row.type}</span>
          {mark && <MarkWord mark={mark} />}
        </div>
        <Ledger row={row} longest={longest} />
      </div>
      <div role="gridcell" className="text-right">
        <div className="font-semibold font-serif text-[15px] leading-5">{count(row.gain_month)}</div>
        <div className="text-xs">
          <EvidenceMark grade={row.evidence} />
        </div>
      </div>
      <div role="gridcell" className="text-right">
        {count(row.worth)}
      </div>
      <div role="gridcell" className="text-right">
        <div>{count(row.clicks)}</div>
        {row.change !== null && (
          <div className={`text-xs ${row.change < 0 ? "text-rust" : "text-faint"}`}>{signed(row.change)}</div>
        )}
      </div>
      <div role="gridcell" className="text-right">
        {place(row.position)}
      </div>
      <div role="gridcell" className="text-right">
        {count(row.sessions)}
      </div>
    </>
  );
}

function NoPage({ change }: { change: Props["change"] }) {
  const none = { text: undefined, section: undefined, type: undefined, group: undefined, evidence: undefined };
  const parts = { device: undefined, country: undefined, decided: undefined, above: undefined, below: undefined };
  return (
    <Notice
      title="No page fits these filters"
      action={<Button onClick={() => change({ ...none, ...parts })}>Take them off</Button>}
    >
      No page that was shown or visited in the period is left.
    </Notice>
  );
}
