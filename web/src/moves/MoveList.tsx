// The moves, the most to gain for their effort first.
import type { Schemas } from "../api/client";
import { type MoveRow, moveList, usePrefetchMove } from "../api/hooks";
import type { Column } from "../shared/columns";
import { count, day, NONE, path, change as signed } from "../shared/format";
import { Button, EvidenceMark, Notice } from "../shared/parts";
import { WalkedList } from "../shared/WalkedList";
import type { MoveSort, MovesAsked, MovesSearch } from "../state/search";
import { EFFORTS } from "./words";

const COLUMNS: Column<MoveRow, MoveSort>[] = [
  {
    sort: "query",
    label: "what, on what",
    explains: "the move, and the query and page it is about",
    width: "minmax(10rem, 1fr)",
    left: true,
    low: true,
    cell: (row) => (
      <>
        <div className="truncate font-medium first-letter:uppercase">{row.kind_words}</div>
        <div className="truncate text-faint text-xs">
          {[row.query && `“${row.query}”`, row.page && path(row.page)].filter(Boolean).join(" on ")}
        </div>
      </>
    ),
  },
  {
    sort: "gain_cautious",
    label: "to gain",
    explains: "clicks a month to gain at least, as told when the move was made",
    width: "4.2rem",
    cell: (row) => (
      <>
        <div className="font-semibold font-serif text-[15px] leading-5">{count(row.gain_cautious)}</div>
        <div className="text-xs">
          <EvidenceMark grade={row.evidence} />
        </div>
      </>
    ),
  },
  {
    sort: "rank",
    label: "per hour",
    explains: "clicks a month to gain at least for each hour of effort",
    width: "4rem",
    cell: (row) => (
      <>
        <div>{count(row.rank)}</div>
        <div className="text-faint text-xs">{EFFORTS[row.effort]}</div>
      </>
    ),
  },
  {
    sort: "state",
    label: "state",
    explains: "to do, under way, made, measured or left alone",
    width: "4.8rem",
    low: true,
    cell: (row) => (
      <>
        <div>{row.state}</div>
        {row.ready && <div className="text-spruce text-xs">to be read</div>}
      </>
    ),
  },
  {
    sort: "due",
    label: "who, due",
    explains: "who does it, and until when",
    width: "5.2rem",
    low: true,
    cell: (row) => (
      <>
        <div className="truncate">{row.who ?? NONE}</div>
        {row.due && (
          <div className={`whitespace-nowrap text-xs ${row.late ? "text-rust" : "text-faint"}`}>{day(row.due)}</div>
        )}
      </>
    ),
  },
  {
    sort: "came_of_it",
    label: "came of it",
    explains: "clicks a day beyond what untouched ones did; kept on record",
    width: "4.8rem",
    cell: (row) =>
      row.came_of_it === null ? (
        NONE
      ) : (
        <>
          <div className={row.came_of_it < 0 ? "text-rust" : "text-spruce"}>{signed(row.came_of_it)} a day</div>
          <div className="text-xs">{row.outcome_evidence && <EvidenceMark grade={row.outcome_evidence} />}</div>
        </>
      ),
  },
];

type Props = {
  slug: string;
  asked: MovesAsked;
  list: Schemas["Moves"] | undefined;
  stale: boolean;
  search: MovesSearch;
  change: (part: Partial<MovesSearch>) => void;
};

export function MoveList({ slug, asked, list, stale, search, change }: Props) {
  const near = usePrefetchMove(slug);
  function useRows(first: number, last: number) {
    return moveList.useRowsAt(slug, asked, first, last);
  }
  return (
    <WalkedList
      label="Moves"
      columns={COLUMNS}
      least={38}
      rowHeight={46}
      total={list?.total ?? 0}
      first={list?.rows}
      useRowsAt={useRows}
      keyOf={(row) => String(row.id)}
      picked={search.move === undefined ? undefined : String(search.move)}
      pick={(move) => change({ move: Number(move) })}
      near={near}
      sorted={{ by: asked.sort ?? "rank", descending: asked.descending }}
      sortBy={(sort, up) => change({ sort, up: up || undefined })}
      stale={stale}
      listKey={JSON.stringify(asked)}
      empty={
        <Notice
          title={search.state || search.text ? "No move fits" : "No moves yet"}
          action={
            (search.state || search.text) && (
              <Button onClick={() => change({ state: undefined, text: undefined })}>Show all</Button>
            )
          }
        >
          Choose a row in Pages, Queries or Clashes and press m: the move is filled in with what it could bring.
        </Notice>
      }
      waiting={<Notice title="Looking up the moves">One moment.</Notice>}
    />
  );
}
