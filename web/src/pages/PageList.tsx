// Every page of the site, the most to gain first, one ledger line each.
import type { Schemas } from "../api/client";
import { type Mark, type PageRow, pageList, useMarks, usePrefetchPage } from "../api/hooks";
import { MarkWord } from "../moves/MarkWord";
import type { Column } from "../shared/columns";
import { count, path, place, share, change as signed } from "../shared/format";
import { Button, EvidenceMark, Notice } from "../shared/parts";
import { WalkedList } from "../shared/WalkedList";
import type { PageSort, PagesAsked, PagesSearch } from "../state/search";
import { Ledger } from "./Ledger";

const ROW_HEIGHT = 52;
const figure = (sort: PageSort, label: string, explains: string, cell: (row: PageRow) => string, extra?: true) => ({
  ...{ sort, label, explains, cell, width: "4.2rem" },
  ...(extra && { extra }),
});
const FIGURES: Column<PageRow, PageSort>[] = [
  figure(
    "worth",
    "worth",
    "what is at stake in the period is worth, by the visits' value or the market's price",
    (row) => count(row.worth),
  ),
  {
    sort: "clicks",
    label: "clicks",
    explains: "clicks in the period, and the change against the days compared with",
    width: "4.2rem",
    cell: (row) => (
      <>
        <div>{count(row.clicks)}</div>
        {row.change !== null && (
          <div className={`text-xs ${row.change < 0 ? "text-rust" : "text-faint"}`}>{signed(row.change)}</div>
        )}
      </>
    ),
  },
  {
    sort: "position",
    label: "pos.",
    explains: "mean position, weighted by impressions; 1 is first",
    width: "2.8rem",
    low: true,
    cell: (row) => place(row.position),
  },
  figure("sessions", "sessions", "organic sessions of the period", (row) => count(row.sessions)),
  figure("impressions", "shown", "how often it was shown in the period", (row) => count(row.impressions), true),
  figure("ctr", "CTR", "clicks over impressions", (row) => share(row.ctr), true),
  figure("conversions", "conversions", "conversions of organic visits", (row) => count(row.conversions), true),
  figure("value", "value", "value of organic visits", (row) => count(row.value), true),
  figure("snippet", "by result", "clicks of the period by a better result", (row) => count(row.snippet), true),
  figure("rank", "by place", "clicks of the period by a better place", (row) => count(row.rank), true),
  figure("unite", "by uniting", "clicks of the period by settling clashes", (row) => count(row.unite), true),
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
  const marks = useMarks(slug);
  function useRows(first: number, last: number) {
    return pageList.useRowsAt(slug, asked, first, last);
  }
  const longest = list?.whole.longest ?? 0;
  const columns: Column<PageRow, PageSort>[] = [
    {
      sort: "page",
      label: "page",
      explains: "the address, and its clicks beside what could be gained",
      width: "minmax(11rem, 1fr)",
      left: true,
      low: true,
      cell: (row) => (
        <Named
          row={row}
          longest={longest}
          mark={marks.of({ page: row.page_id })}
          onRows={marks.onRowsOf(row.page_id)}
        />
      ),
    },
    {
      sort: "gain",
      label: "to gain",
      explains: "clicks a month to gain at least: the cautious figure",
      width: "4.2rem",
      cell: (row) => (
        <>
          <div className="font-semibold font-serif text-[15px] leading-5">{count(row.gain_month)}</div>
          <div className="text-xs">
            <EvidenceMark grade={row.evidence} />
          </div>
        </>
      ),
    },
    ...FIGURES,
  ];
  return (
    <WalkedList
      label="Pages"
      columns={columns}
      least={36}
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
      empty={<NoPage change={change} />}
      waiting={<Notice title="Adding up">Every page's account is made from its rows, clashes and visits.</Notice>}
    />
  );
}

type NamedProps = { row: PageRow; longest: number; mark: Mark | undefined; onRows: Mark[] };

function Named({ row, longest, mark, onRows }: NamedProps) {
  return (
    <>
      <div className="flex items-baseline gap-2">
        <span className="truncate font-medium" title={row.page}>
          {path(row.page)}
        </span>
        <span className="shrink-0 text-faint text-xs">{row.type}</span>
        {mark && <MarkWord mark={mark} />}
        {onRows.length > 0 && (
          <span
            className="shrink-0 border border-rule px-1 text-faint text-xs"
            title={onRows.map((one) => `“${one.query_text}”: ${one.word}`).join("\n")}
          >
            {onRows.length === 1 ? onRows[0]?.word : `${onRows.length} decided`}
          </span>
        )}
      </div>
      <Ledger row={row} longest={longest} />
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
