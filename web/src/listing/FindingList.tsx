// The list of any finding: its declared columns, with a place's exceptions by name.
import { hashKey } from "@tanstack/react-query";
import { type ReactNode, useMemo } from "react";
import { type Answer, type Row, useRowsAt } from "../api/ask";
import { CATALOG } from "../api/catalog.generated";
import { useSite } from "../frame/useSite";
import type { FindingName, ListSearch, ViewOptions } from "../state/view";
import { cellOf, type Declared, isText, widthOf } from "./cells";
import type { Column } from "./columns";
import { WalkedList } from "./WalkedList";

/** A place's exceptions in a list. */
export type Look<Name extends FindingName> = {
  cells?: { [Field in string]?: (row: Row<Name>) => ReactNode };
  widths?: Record<string, string>;
  heads?: Record<string, string>; // for columns whose label depends on what is listed
  least: number; // minimum width of a row, in rem
  rowHeight: number;
  near: (key: string) => void; // the likely next row
  open?: (key: string, row: Row<Name> | undefined) => void;
  empty: ReactNode;
  waiting: string;
};

type Props<Name extends FindingName> = {
  slug: string;
  finding: Name;
  options: ViewOptions;
  list: Answer<Name> | undefined;
  stale: boolean;
  search: ListSearch;
  change: (part: Partial<ListSearch>) => void;
  look: Look<Name>;
  picked: Row<Name> | undefined;
  place: number | undefined; // of a picked row that is not among the first
  pick: (row: Row<Name>) => void;
};

/** The identity of a row within its list. */
export const keyOf = (row: { key: string }) => row.key;

/** The order in an address: by a column, descending unless it says ascending; otherwise the finding's own. */
export const sortedBy = ({ sort, up }: ListSearch) => ({ sort: sort ?? "", descending: !up });

export function FindingList<Name extends FindingName>(props: Props<Name>) {
  const { slug, finding, options, search, change, look } = props;
  const list = props.list as { rows: Row<Name>[]; total: number } | undefined;
  const sorted = sortedBy(search);
  const declared = CATALOG[finding];
  const currency = useSite().site?.currency;
  const columns = useMemo(
    () => declared.columns.map((one, number) => columnOf<Row<Name>>(one, number === 0, look, currency)),
    [declared, look, currency],
  );
  return (
    <WalkedList<Row<Name> & { key: string }>
      key={finding}
      {...look}
      open={look.open && ((key) => look.open?.(key, props.picked))}
      label={declared.title}
      columns={columns}
      total={list?.total ?? 0}
      first={list?.rows as (Row<Name> & { key: string })[] | undefined}
      // biome-ignore lint/correctness/useHookAtTopLevel: the list calls it as the hook that it is
      useRowsAt={(first, last) => useRowsAt(slug, finding, options, sorted, first, last) as never}
      keyOf={keyOf}
      picked={search.row}
      place={props.place}
      pick={props.pick}
      sorted={{ by: search.sort ?? declared.order, descending: sorted.descending }}
      sortBy={(sort, up) => change({ sort, up: up || undefined })}
      stale={props.stale}
      listKey={hashKey([finding, options, sorted])}
    />
  );
}

/** Most figures are for the period; monthly ones say so, and amounts name their currency. */
function labelOf({ label, unit, kind }: Declared, currency: string | undefined) {
  if (kind === "money" && currency) return `${label}, ${currency}`;
  return unit.endsWith("a month") ? `${label} a month` : label;
}

function columnOf<One>(
  column: Declared,
  first: boolean,
  {
    cells,
    widths,
    heads,
  }: {
    cells?: { [Field in string]?: (row: One) => ReactNode };
    widths?: Record<string, string>;
    heads?: Record<string, string>;
  },
  currency: string | undefined,
): Column<One> {
  const cell = cells?.[column.name];
  return {
    name: column.name,
    label: heads?.[column.name] ?? labelOf(column, currency),
    explains: column.unit ? `${column.explains} (${column.unit})` : column.explains,
    width: first ? "minmax(8rem, 1fr)" : (widths?.[column.name] ?? widthOf(column.kind)),
    cell: cell ?? ((row) => cellOf(column.kind, (row as Record<string, unknown>)[column.name])),
    left: first || column.kind === "words" || (isText(column.kind) && !cell),
    low: column.low,
    extra: column.extra,
    sorts: column.sorts,
  };
}
