// A list of any length: virtual, fetched in windows; arrow keys and j/k move, headers sort.
import { defaultRangeExtractor, useVirtualizer } from "@tanstack/react-virtual";
import { ArrowDown, ArrowUp } from "lucide-react";
import {
  type MouseEvent,
  memo,
  type ReactNode,
  type RefObject,
  useContext,
  useEffect,
  useId,
  useRef,
  useState,
} from "react";
import { count } from "../shared/format";
import { Ghost } from "../shared/Ghost";
import { Hint } from "../shared/Hint";
import { useKeys } from "../shared/keys";
import { useSize } from "../shared/useWidth";
import { type Column, useColumns } from "./columns";
import { EvidenceSheet, useEvidenceSheet } from "./EvidenceSheet";
import { EvidenceHere, useMarked } from "./marked";

type Props<Row> = {
  label: string;
  columns: Column<Row>[];
  least: number; // minimum width of a row, in rem
  rowHeight: number;
  total: number;
  first: Row[] | undefined; // the first rows, where a copied address finds its row; undefined while they load
  useRowsAt: (first: number, last: number) => (index: number) => Row | undefined;
  keyOf: (row: Row) => string;
  picked: string | undefined;
  place?: number; // of a picked row that is not among the first ones
  pick: (row: Row) => void;
  near: (key: string) => void; // the likely next row
  open?: (key: string) => void;
  sorted: { by: string; descending: boolean };
  sortBy: (sort: string, up: boolean) => void;
  stale: boolean;
  listKey: string; // another list starts at its top
  empty: ReactNode;
  waiting: string; // what is computed while there are no rows yet
};

const HEADER_HEIGHT = 48;
const MARK_WIDTH = "1.5rem";
const TOUCHED = 56; // px: the height of a row on a phone
const ANNOUNCED_AFTER = 400; // ms: fewer would speak every row that one walks past
const MARKS_MOST = 500; // the maximum for one decision

export function WalkedList<Row>(props: Props<Row>) {
  const { total, keyOf, near, sorted, first } = props;
  const evidence = useContext(EvidenceHere);
  const phone = evidence?.over === true;
  const sheet = useEvidenceSheet();
  const chosenColumns = useColumns(props.label, props.columns);
  const { menu } = chosenColumns;
  const shown = phone ? ofPhone(chosenColumns.shown, sorted.by) : chosenColumns.shown;
  const markable = useMarked();
  const marked = phone ? null : markable;
  const tracks = [...(marked ? [MARK_WIDTH] : []), ...shown.map((column) => column.width)].join(" ");
  const [scroller, { width, height }] = useSize<HTMLDivElement>();
  const [head, { height: headHeight }] = useSize<HTMLDivElement>();
  const under = evidence && !phone ? evidence.content : null;
  const [underHeight, setUnderHeight] = useState(0);
  const rowHeight = phone ? Math.max(props.rowHeight, TOUCHED) : props.rowHeight;
  const below = under ? underHeight : 0;
  const { virtual, index, setIndex, goTo, rowAt } = useRowsInView(props, { scroller, rowHeight, below });
  const picked = props.picked ?? (first?.[0] && keyOf(first[0]));
  const { choose, mark, walk } = useHand(props, { index, setIndex, goTo, rowAt, picked });
  const tap: typeof choose = (event, at, row) => {
    choose(event, at, row);
    if (phone) sheet.show();
  };
  const acts = useActs<Row>({ choose: tap, mark, near: (row) => near(keyOf(row)) });

  return (
    <>
      <div ref={scroller} className="min-h-0 flex-1 overflow-auto" data-testid="rows">
        <div className="relative" style={{ minWidth: phone ? undefined : `${props.least}rem` }}>
          <div role="grid" aria-label={props.label} aria-busy={props.stale || !first} aria-rowcount={total + 1}>
            <HeadRow
              box={head}
              columns={shown}
              tracks={tracks}
              markable={marked !== null}
              sorted={sorted}
              sortBy={props.sortBy}
            />
            <div style={{ height: virtual.getTotalSize() }} className={`relative ${props.stale ? "opacity-60" : ""}`}>
              {virtual.getVirtualItems().map((item) => {
                const row = rowAt(item.index);
                const chosen = row !== undefined && keyOf(row) === picked;
                return (
                  <WalkedRow
                    key={item.key}
                    row={row}
                    index={item.index}
                    start={item.start}
                    height={rowHeight}
                    measure={virtual.measureElement}
                    current={item.index === index}
                    tracks={tracks}
                    columns={shown}
                    chosen={chosen}
                    marked={marked ? row !== undefined && marked.keys.has(keyOf(row)) : null}
                    acts={acts}
                  />
                );
              })}
            </div>
          </div>
          {under && total > 0 && (
            <div
              style={{ top: headHeight + endOf(virtual.measurementsCache[index]) - below }}
              className="absolute inset-x-0"
            >
              <Under width={width} most={height / 2} tellHeight={setUnderHeight}>
                {under}
              </Under>
            </div>
          )}
        </div>
        {first && total === 0 && props.empty}
        {!first && <Ghost words={props.waiting} height={rowHeight} />}
      </div>
      <p className="flex justify-between gap-x-4 border-rule border-t px-4 py-1 text-faint text-xs">
        <span>{props.stale ? "Loading…" : total > 0 && `${count(index + 1)} of ${count(total)}`}</span>
        <Announced text={props.stale ? "Loading…" : total > 0 ? `${count(index + 1)} of ${count(total)}` : ""} />
        {!phone && menu}
      </p>
      {phone && sheet.open && total > 0 && (
        <EvidenceSheet index={index} total={total} walk={walk} close={sheet.close}>
          {evidence.content}
        </EvidenceSheet>
      )}
    </>
  );
}

type View = { scroller: RefObject<HTMLDivElement | null>; rowHeight: number; below: number };

/** The rows in view, the current one, and going to another. `below`: what the evidence under the current row takes. */
function useRowsInView<Row>(props: Props<Row>, { scroller, rowHeight, below }: View) {
  const { total, keyOf, near, listKey, first } = props;
  const marked = useMarked();
  const [index, setIndex] = useState(0);
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: (at) => rowHeight + (at === index ? below : 0),
    // As high as the row is, whatever the reader's spacing of text does to it.
    measureElement: (row) =>
      (row as HTMLElement).offsetHeight + (Number(row.getAttribute("data-index")) === index ? below : 0),
    overscan: 8,
    // The current row stays in the document wherever one scrolls, so it keeps the focus and its stop for Tab.
    rangeExtractor: (range) =>
      index < total
        ? [...new Set([...defaultRangeExtractor(range), index])].sort((a, b) => a - b)
        : defaultRangeExtractor(range),
    scrollPaddingEnd: HEADER_HEIGHT, // the header is in the same box, above the rows
  });
  virtual.getVirtualItems(); // works out the range
  const { startIndex = 0, endIndex = 0 } = virtual.range ?? {};
  const rowAt = props.useRowsAt(startIndex, endIndex);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what changes the heights of rows
  useEffect(() => virtual.measure(), [index, below]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for what is asked
  useEffect(() => {
    setIndex(0);
    scroller.current?.scrollTo({ top: 0 });
    if (marked?.keys.size) marked.set(new Set());
  }, [listKey]);

  // A copied address names a row: find it among the first rows.
  // biome-ignore lint/correctness/useExhaustiveDependencies: keyOf is the same for every list
  useEffect(() => {
    const near = first?.findIndex((row) => keyOf(row) === props.picked) ?? -1;
    const found = near > 0 ? near : (props.place ?? -1);
    if (found > 0) {
      setIndex(found);
      virtual.scrollToIndex(found, { align: "auto" });
    }
  }, [first, props.picked, props.place, virtual]);

  // The neighbour is the likely next row.
  const neighbours = [rowAt(index + 1), rowAt(index - 1)].map((row) => row && keyOf(row));
  // biome-ignore lint/correctness/useExhaustiveDependencies: the neighbours stand for the list and the place in it
  useEffect(() => {
    for (const key of neighbours) if (key) near(key);
  }, [neighbours.join()]);

  const goTo = (next: number) => {
    setIndex(next);
    virtual.scrollToIndex(next, { align: "auto" });
    // The current row has the focus, so the next key goes to the list and not to a button pressed before.
    requestAnimationFrame(() => {
      const row = scroller.current?.querySelector<HTMLElement>(`[aria-rowindex="${next + 2}"]`);
      row?.focus({ preventScroll: true });
    });
  };
  return { virtual, index, setIndex, goTo, rowAt };
}

type Place<Row> = {
  index: number;
  setIndex: (index: number) => void;
  goTo: (index: number) => void;
  rowAt: (index: number) => Row | undefined;
  picked: string | undefined;
};

/** What keys and the mouse do to a list: walk, choose, mark. */
function useHand<Row>(props: Props<Row>, { index, setIndex, goTo, rowAt, picked }: Place<Row>) {
  const { total, keyOf, pick, open } = props;
  const marked = useMarked();
  function walk(step: number) {
    const next = Math.min(Math.max(index + step, 0), total - 1);
    const row = rowAt(next);
    goTo(next);
    if (row) pick(row);
  }
  /** Mark or unmark a row; with the shift key all rows from the current one. */
  function mark(at: number, range: boolean) {
    if (!marked) return;
    const from = range ? index : at;
    const span = Array.from({ length: Math.abs(at - from) + 1 }, (_, step) => rowAt(Math.min(at, from) + step));
    const keys = span.flatMap((row) => (row ? [keyOf(row)] : []));
    const next = new Set(marked.keys);
    const off = !range && keys.every((key) => next.has(key));
    for (const key of keys) off ? next.delete(key) : next.size < MARKS_MOST && next.add(key);
    marked.set(next);
  }
  function choose(event: MouseEvent, at: number, row: Row) {
    if (marked && (event.shiftKey || event.ctrlKey || event.metaKey)) return mark(at, event.shiftKey);
    setIndex(at);
    pick(row);
  }
  const markAndGoOn = () => {
    mark(index, false);
    walk(1);
  };
  // Scrolling keys belong to the focused pane; here they move through the list.
  useKeys(
    {
      ...(marked && { " ": markAndGoOn }),
      ArrowDown: () => walk(1),
      ArrowUp: () => walk(-1),
      PageDown: () => walk(10),
      PageUp: () => walk(-10),
      Home: () => walk(-total),
      End: () => walk(total),
    },
    "[aria-label=List]",
  );
  useKeys({ j: () => walk(1), k: () => walk(-1), ...(open && { Enter: () => picked && open(picked) }) });
  return { choose, mark, walk };
}

/** What a screen reader hears when another row is chosen, once one has stopped walking. */
function Announced({ text }: { text: string }) {
  const [said, setSaid] = useState("");
  useEffect(() => {
    const timer = setTimeout(() => {
      const name = document.querySelector('[role=row][aria-selected=true] [role="rowheader"]')?.textContent ?? "";
      setSaid(text && `${name} ${text}`.trim());
    }, ANNOUNCED_AFTER);
    return () => clearTimeout(timer);
  }, [text]);
  return (
    <span role="status" className="sr-only">
      {said}
    </span>
  );
}

type HeadProps<Row> = Pick<Props<Row>, "columns" | "sorted" | "sortBy"> & {
  box: RefObject<HTMLDivElement | null>;
  tracks: string;
  markable: boolean;
};

function HeadRow<Row>({ box, columns, sorted, sortBy, tracks, markable }: HeadProps<Row>) {
  return (
    <div
      ref={box}
      role="row"
      aria-rowindex={1}
      style={{ gridTemplateColumns: tracks }}
      className={`${inset(markable)} sticky top-0 z-10 items-end border-ink border-b bg-paper py-1.5`}
    >
      {markable && <div role="columnheader" aria-label="marked" />}
      {columns.map((column) => (
        <ColumnHead key={column.name} column={column} sorted={sorted} sortBy={sortBy} />
      ))}
    </div>
  );
}

type ColumnHeadProps<Row> = Pick<Props<Row>, "sorted" | "sortBy"> & { column: Column<Row> };

function ColumnHead<Row>({ column, sorted, sortBy }: ColumnHeadProps<Row>) {
  const sorts = column.sorts !== false;
  const current = sorted.by === column.name;
  const Arrow = sorted.descending ? ArrowDown : ArrowUp;
  return (
    <div
      role="columnheader"
      aria-sort={!current ? "none" : sorted.descending ? "descending" : "ascending"}
      className={column.left ? "text-left" : "text-right"}
    >
      <Hint text={`${sentenceOf(column.explains)}${sorts ? " Click to sort." : ""}`}>
        <button
          type="button"
          aria-disabled={!sorts || undefined}
          onClick={() => sorts && sortBy(column.name, current ? sorted.descending : Boolean(column.low))}
          className={`inline-flex min-h-6 items-center gap-0.5 text-xs hover:text-ink ${current ? "font-semibold text-ink" : "text-faint"}`}
        >
          {current && <Arrow size={11} aria-hidden="true" className="shrink-0" />}
          {column.label}
        </button>
      </Hint>
    </div>
  );
}

/** On a phone a row is its name and the figure that orders the list. */
function ofPhone<Row>(columns: Column<Row>[], by: string): Column<Row>[] {
  const [name, ...rest] = columns;
  const figure = rest.find((column) => column.name === by) ?? rest[0];
  return name && figure ? [name, figure] : columns;
}

/** Where an item of the list ends. */
const endOf = (item: { end: number } | undefined) => item?.end ?? 0;

/** Content under the chosen row: as wide as the window, however wide the list is; the rows below make room. */
function Under(props: { width: number; most: number; tellHeight: (height: number) => void; children: ReactNode }) {
  const [box, { height }] = useSize<HTMLDivElement>();
  const { tellHeight } = props;
  useEffect(() => tellHeight(height), [height, tellHeight]);
  return (
    <div ref={box} style={{ width: props.width }} className="sticky left-0 border-ink border-b bg-paper">
      <div style={{ maxHeight: props.most }} className="overflow-auto">
        {props.children}
      </div>
    </div>
  );
}

/** An explanation as a sentence: capitalised, with a full stop. */
const sentenceOf = (text: string) =>
  text && `${text[0]?.toUpperCase()}${text.slice(1)}${/[.?!]$/.test(text) ? "" : "."}`;

const inset = (markable: boolean) => `grid gap-x-2.5 pr-3 ${markable ? "pl-1.5" : "pl-4"}`;

type Acts<Row> = {
  choose: (event: MouseEvent, index: number, row: Row) => void;
  mark: (index: number, range: boolean) => void;
  near: (row: Row) => void;
};

/** Row handlers as a stable object, so rows in view are not rendered again while others load. */
function useActs<Row>(now: Acts<Row>): Acts<Row> {
  const latest = useRef(now);
  latest.current = now;
  const [same] = useState<Acts<Row>>(() => ({
    choose: (event, index, row) => latest.current.choose(event, index, row),
    mark: (index, range) => latest.current.mark(index, range),
    near: (row) => latest.current.near(row),
  }));
  return same;
}

type RowProps<Row> = {
  row: Row | undefined;
  index: number;
  start: number;
  height: number;
  measure: (row: HTMLElement | null) => void;
  current: boolean; // the stop of the list for Tab
  tracks: string;
  columns: Column<Row>[];
  chosen: boolean;
  marked: boolean | null; // null: rows cannot be marked here
  acts: Acts<Row>;
};

const WalkedRow = memo(function WalkedRow<Row>(props: RowProps<Row>) {
  const { row, index, chosen, marked, acts } = props;
  const id = useId();
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: arrows and j/k walk the rows, in useKeys of the list
    <div
      ref={props.measure}
      data-index={index}
      role="row"
      aria-rowindex={index + 2}
      aria-selected={chosen}
      aria-labelledby={`${id}-name`}
      tabIndex={props.current ? 0 : -1}
      onPointerEnter={() => row && acts.near(row)}
      onClick={(event) => row && acts.choose(event, index, row)}
      style={{ gridTemplateColumns: props.tracks, minHeight: props.height, transform: `translateY(${props.start}px)` }}
      className={`${inset(marked !== null)} absolute inset-x-0 cursor-default content-center border-rule border-b focus-visible:outline-offset-[-2px] ${chosen ? "bg-picked" : "hover:bg-shade"}`}
    >
      {row && marked !== null && (
        <div role="gridcell" className="flex items-center">
          <MarkBox on={marked} mark={(range) => acts.mark(index, range)} />
        </div>
      )}
      {row ? (
        props.columns.map((column, at) => (
          <div
            key={column.name}
            role={at === 0 ? "rowheader" : "gridcell"}
            id={at === 0 ? `${id}-name` : undefined}
            className={`min-w-0 ${column.left ? "" : "figures text-right"}`}
          >
            {column.cell(row)}
          </div>
        ))
      ) : (
        <span role="gridcell" className="text-faint">
          …
        </span>
      )}
    </div>
  );
}) as <Row>(props: RowProps<Row>) => ReactNode;

function MarkBox({ on, mark }: { on: boolean; mark: (range: boolean) => void }) {
  return (
    <button
      type="button"
      role="checkbox"
      aria-checked={on}
      aria-label="Select the row"
      title="Select the row (space); shift: all rows to here"
      tabIndex={-1}
      onClick={(event) => {
        event.stopPropagation();
        mark(event.shiftKey);
      }}
      className="group grid h-6 w-6 place-items-center"
    >
      <span
        className={`h-2.5 w-2.5 border ${on ? "border-ink bg-ink" : "border-strong-rule group-hover:border-ink"}`}
        aria-hidden="true"
      />
    </button>
  );
}
