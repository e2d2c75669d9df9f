// The columns of a list: each person's own choice and order, stored in this browser.
import { ArrowDown, ArrowUp } from "lucide-react";
import { Popover } from "radix-ui";
import { type ReactNode, useMemo, useState } from "react";

export type Column<Row> = {
  name: string;
  label: string;
  explains: string;
  width: string; // a grid track
  cell: (row: Row) => ReactNode;
  left?: boolean;
  low?: boolean; // sorts ascending first
  extra?: boolean; // hidden by default
  sorts?: boolean;
};

/** The visible columns in order, and functions to change them. The first column names the row and always comes first. */
export function useColumns<Row>(list: string, columns: Column<Row>[]) {
  const key = `zugzwang-columns-${list.toLowerCase()}`;
  const usual = columns.filter((column) => !column.extra).map((column) => column.name);
  const [chosen, setChosen] = useState<string[]>(() => JSON.parse(localStorage.getItem(key) ?? "null") ?? usual);
  const shown = useMemo(() => {
    const known = chosen.flatMap((sort) => columns.find((column) => column.name === sort) ?? []);
    const named = columns[0];
    return named ? [named, ...known.filter((column) => column.name !== named.name)] : known;
  }, [columns, chosen]);

  function choose(next: string[] | null) {
    if (next) localStorage.setItem(key, JSON.stringify(next));
    else localStorage.removeItem(key);
    setChosen(next ?? usual);
  }
  return { shown, menu: <ColumnsMenu columns={columns} shown={shown.map((one) => one.name)} choose={choose} /> };
}

type MenuProps<Row> = {
  columns: Column<Row>[];
  shown: string[];
  choose: (next: string[] | null) => void;
};

function ColumnsMenu<Row>({ columns, shown, choose }: MenuProps<Row>) {
  const ordered = [...shown, ...columns.map((one) => one.name).filter((sort) => !shown.includes(sort))];
  const move = (sort: string, by: number) => {
    const next = [...shown];
    const at = next.indexOf(sort);
    next.splice(at, 1);
    next.splice(at + by, 0, sort);
    choose(next);
  };
  return (
    <Popover.Root>
      <Popover.Trigger className="link">Columns</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          side="top"
          aria-label="Columns"
          className="z-30 max-h-[70vh] w-72 overflow-auto border border-strong-rule bg-sheet p-3 shadow-lg"
        >
          <ul>
            {ordered.slice(1).map((sort) => {
              const column = columns.find((one) => one.name === sort);
              const at = shown.indexOf(sort);
              return (
                <li key={sort} className="flex items-center gap-2">
                  <label className="flex min-h-7 flex-1 items-center gap-1.5" title={column?.explains}>
                    <input
                      type="checkbox"
                      checked={at >= 0}
                      onChange={() => choose(at >= 0 ? shown.filter((one) => one !== sort) : [...shown, sort])}
                    />
                    {column?.label}
                  </label>
                  {at > 1 && (
                    <button
                      type="button"
                      aria-label={`${column?.label}: earlier`}
                      className="p-1.5"
                      onClick={() => move(sort, -1)}
                    >
                      <ArrowUp size={12} aria-hidden="true" />
                    </button>
                  )}
                  {at > 0 && at < shown.length - 1 && (
                    <button
                      type="button"
                      aria-label={`${column?.label}: later`}
                      className="p-1.5"
                      onClick={() => move(sort, 1)}
                    >
                      <ArrowDown size={12} aria-hidden="true" />
                    </button>
                  )}
                </li>
              );
            })}
          </ul>
          <button type="button" className="mt-2 underline" onClick={() => choose(null)}>
            as usual
          </button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
