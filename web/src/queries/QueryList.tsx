// The list: virtual, as long as the lens is, fetched in windows; arrows and j/k walk it, headers sort it.
import { useVirtualizer } from "@tanstack/react-virtual";
import { ArrowDown, ArrowUp } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { type Row, usePrefetchEvidence, useRowsAt } from "../api/hooks";
import { count, path, place, share, change as signed } from "../shared/format";
import { useKeys } from "../shared/keys";
import { EvidenceMark, Notice } from "../shared/parts";
import type { ListAsked, QueriesSearch, Sort } from "../state/search";
import { NothingFound } from "./NothingFound";

const ROW_HEIGHT = 42;
const GRID = "grid grid-cols-[minmax(8rem,1fr)_4.6rem_3.4rem_3.6rem_3.3rem_3.3rem_2.3rem_3.5rem] gap-x-2 pr-3 pl-4";

type Column = { sort: Sort; label: string; explains: string; left?: true; low?: true };
const COLUMNS: Column[] = [
  { sort: "query", label: "query, page", explains: "the query and the page shown for it", left: true, low: true },
  {
    sort: "at_stake",
    label: "at stake",
    explains: "clicks a month to gain: by a better result (rust) and by a better place (spruce)",
  },
  { sort: "clicks", label: "clicks", explains: "clicks in the period, and the change against the days compared with" },
  { sort: "impressions", label: "shown", explains: "how often the page was shown for the query" },
  { sort: "ctr", label: "CTR", explains: "clicks over impressions", low: true },
  {
    sort: "expected_ctr",
    label: "usual",
    explains: "the CTR that this site usually earns at the row's positions, day by day",
  },
  { sort: "position", label: "pos.", explains: "mean position, weighted by impressions; 1 is first", low: true },
  {
    sort: "q_value",
    label: "evidence",
    explains: "how sure it is: firm (1 % false alarms), likely (10 %), thin",
    low: true,
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

export function QueryList({ slug, asked, list, stale, search, change }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const total = list?.total ?? 0;
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 12,
  });
  const items = virtual.getVirtualItems();
  const rowAt = useRowsAt(slug, asked, items[0]?.index ?? 0, items.at(-1)?.index ?? 0);
  const [index, setIndex] = useState(0);
  const most = Math.max(...(list?.rows ?? []).map((row) => row.at_stake_month), 1);

  // Another list begins at its top.
  const listKey = JSON.stringify(asked);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for what is asked
  useEffect(() => {
    setIndex(0);
    scroller.current?.scrollTo({ top: 0 });
  }, [listKey]);

  // A copied address names a row: find its place among the first rows.
  useEffect(() => {
    const found = list?.rows.findIndex((row) => rowKey(row) === search.row) ?? -1;
    if (found > 0) {
      setIndex(found);
      virtual.scrollToIndex(found, { align: "auto" });
    }
  }, [list, search.row, virtual]);

  // Whoever stands on a row goes to its neighbour next.
  const prefetch = usePrefetchEvidence(slug, asked);
  const neighbours = [rowAt(index + 1), rowAt(index - 1)].map((row) => row && rowKey(row));
  // biome-ignore lint/correctness/useExhaustiveDependencies: the neighbours stand for the list and the place in it
  useEffect(() => {
    for (const row of neighbours) if (row) prefetch(row);
  }, [neighbours.join()]);

  function walk(step: number) {
    const next = Math.min(Math.max(index + step, 0), total - 1);
    const row = rowAt(next);
    setIndex(next);
    virtual.scrollToIndex(next, { align: "auto" });
    if (row) change({ row: rowKey(row) });
  }
  useKeys({
    j: () => walk(1),
    k: () => walk(-1),
    ArrowDown: () => walk(1),
    ArrowUp: () => walk(-1),
    PageDown: () => walk(10),
    PageUp: () => walk(-10),
    Home: () => walk(-total),
    End: () => walk(total),
  });

  function sortBy(column: Column) {
    const now = asked.sort === column.sort;
    const up = now ? asked.descending : Boolean(column.low);
    change({ sort: column.sort, up: up ? true : undefined });
  }

  const picked = search.row ?? (list?.rows[0] ? rowKey(list.rows[0]) : undefined);
  return (
    <div ref={scroller} className="min-h-0 flex-1 overflow-auto" data-testid="rows">
      <div role="grid" aria-label="Rows" aria-busy={stale} aria-rowcount={total + 1} className="min-w-[36rem]">
        <div role="row" aria-rowindex={1} className={`${GRID} sticky top-0 z-10 border-ink border-b bg-paper py-1.5`}>
          {COLUMNS.map((column) => (
            <div
              key={column.sort}
              role="columnheader"
              aria-sort={asked.sort !== column.sort ? "none" : asked.descending ? "descending" : "ascending"}
              className={column.left ? "text-left" : "text-right"}
            >
              <button
                type="button"
                title={`${column.explains}. Click to sort.`}
                onClick={() => sortBy(column)}
                className={`inline-flex items-center gap-0.5 text-xs hover:text-ink ${asked.sort === column.sort ? "font-semibold text-ink" : "text-faint"}`}
              >
                {column.label}
                {asked.sort === column.sort &&
                  (asked.descending ? (
                    <ArrowDown size={11} aria-hidden="true" />
                  ) : (
                    <ArrowUp size={11} aria-hidden="true" />
                  ))}
              </button>
            </div>
          ))}
        </div>
        {list && total === 0 && <NothingFound list={list} search={search} change={change} />}
        {!list && (
          <Notice title="Adding up">The period's facts are added up and set beside the site's click curve.</Notice>
        )}
        <div style={{ height: virtual.getTotalSize() }} className={`relative ${stale ? "opacity-60" : ""}`}>
          {items.map((item) => {
            const row = rowAt(item.index);
            const chosen = row !== undefined && rowKey(row) === picked;
            return (
              // biome-ignore lint/a11y/useKeyWithClickEvents: arrows and j/k walk the rows, in useKeys above
              <div
                key={item.key}
                role="row"
                aria-rowindex={item.index + 2}
                aria-selected={chosen}
                tabIndex={chosen ? 0 : -1}
                onPointerEnter={() => row && prefetch(rowKey(row))}
                onClick={() => {
                  if (!row) return;
                  setIndex(item.index);
                  change({ row: rowKey(row) });
                }}
                style={{ height: ROW_HEIGHT, transform: `translateY(${item.start}px)` }}
                className={`${GRID} absolute inset-x-0 cursor-default content-center border-rule border-b ${chosen ? "bg-picked" : "hover:bg-shade"}`}
              >
                {row ? (
                  <Cells row={row} most={most} compared={list?.before != null} />
                ) : (
                  <span role="gridcell" className="text-faint">
                    …
                  </span>
                )}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

function Cells({ row, most, compared }: { row: Row; most: number; compared: boolean }) {
  const gap = row.ctr - row.expected_ctr;
  return (
    <>
      <div role="gridcell" className="min-w-0">
        <div className="truncate font-medium">{row.query_text}</div>
        <div className="truncate text-faint text-xs" title={row.page_text}>
          {path(row.page_text)}
        </div>
      </div>
      <div role="gridcell" className="text-right">
        <div className="font-semibold font-serif text-[15px] leading-5">{count(row.at_stake_month)}</div>
        <AtStakeBar row={row} most={most} />
      </div>
      <div role="gridcell" className="text-right">
        <div>{count(row.clicks)}</div>
        {compared && (
          <div className={`text-xs ${row.clicks < (row.clicks_before ?? 0) ? "text-rust" : "text-faint"}`}>
            {signed(row.clicks - (row.clicks_before ?? 0))}
          </div>
        )}
      </div>
      <div role="gridcell" className="text-right">
        {count(row.impressions)}
      </div>
      <div role="gridcell" className={`text-right ${gap < 0 ? "text-rust" : "text-spruce"}`}>
        {share(row.ctr)}
      </div>
      <div role="gridcell" className="text-right text-faint">
        {share(row.expected_ctr)}
      </div>
      <div role="gridcell" className="text-right">
        {place(row.position)}
      </div>
      <div role="gridcell" className="text-right text-xs">
        <EvidenceMark grade={row.evidence} />
      </div>
    </>
  );
}

/** At stake in two parts, to the scale of the list: a better result first, a better place after it. */
function AtStakeBar({ row, most }: { row: Row; most: number }) {
  const monthly = row.at_stake > 0 ? row.at_stake_month / row.at_stake : 0;
  const snippet = Math.max(row.shortfall, 0) * monthly;
  return (
    <div className="flex h-1 justify-end" aria-hidden="true">
      <div className="bg-rust" style={{ width: `${Math.min(snippet / most, 1) * 100}%` }} />
      <div className="bg-spruce" style={{ width: `${Math.min((row.headroom * monthly) / most, 1) * 100}%` }} />
    </div>
  );
}
