// A table of figures: its first column names the row, the others are right-aligned for comparison.
import clsx from "clsx";
import { type ReactNode, useState } from "react";
import { Button } from "./parts";

export type FigureColumn<Row> = {
  head: ReactNode;
  cell: (row: Row) => ReactNode;
  look?: string | ((row: Row) => string); // of its cells
  width?: string; // of the column
  title?: (row: Row) => string | undefined;
  left?: true;
};

type Props<Row> = {
  rows: readonly Row[];
  keyOf: (row: Row) => string | number;
  columns: readonly FigureColumn<Row>[];
  first?: number; // the number of rows shown at first; the others on request
  chosen?: ((row: Row) => boolean) | undefined;
  pick?: (row: Row) => void;
  className?: string;
  note?: ReactNode; // next to the link to all rows
};

export function FigureTable<Row>(props: Props<Row>) {
  const { rows, columns, first = rows.length, chosen, pick } = props;
  const [all, setAll] = useState(false);
  const align = (one: FigureColumn<Row>, at: number) => (one.left || at === 0 ? "text-left" : "text-right");
  return (
    <>
      <table className={clsx("w-full", columns.some((one) => one.width) && "table-fixed", props.className)}>
        <thead className="text-faint text-xs">
          <tr>
            {columns.map((one, at) => (
              <th
                // biome-ignore lint/suspicious/noArrayIndexKey: columns never change places
                key={at}
                scope="col"
                className={clsx("font-normal", at > 0 && "pl-2", align(one, at), one.width)}
              >
                {one.head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {(all ? rows : rows.slice(0, first)).map((row) => (
            <tr
              key={props.keyOf(row)}
              aria-selected={chosen?.(row)}
              onClick={pick && (() => pick(row))}
              className={clsx(
                "border-rule border-t align-top",
                chosen && (chosen(row) ? "bg-picked" : "hover:bg-shade"),
              )}
            >
              {columns.map((one, at) => {
                const Cell = at === 0 ? "th" : "td";
                return (
                  <Cell
                    // biome-ignore lint/suspicious/noArrayIndexKey: columns never change places
                    key={at}
                    scope={at === 0 ? "row" : undefined}
                    title={one.title?.(row)}
                    className={clsx(
                      "py-0.5 font-normal",
                      at > 0 && "pl-2",
                      align(one, at),
                      typeof one.look === "function" ? one.look(row) : one.look,
                    )}
                  >
                    {one.cell(row)}
                  </Cell>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      {(props.note || rows.length > first) && (
        <p className="mt-1 flex justify-between gap-x-3 text-faint text-xs">
          <span>{props.note}</span>
          {rows.length > first && (
            <Button plain onClick={() => setAll(!all)}>
              {all ? "Fewer" : `All ${rows.length}`}
            </Button>
          )}
        </p>
      )}
    </>
  );
}
