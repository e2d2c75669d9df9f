// The evidence of a row without anything of its own: its page or query, its sentence, and all its columns.
import { Link } from "@tanstack/react-router";
import type { Row } from "../api/ask";
import { CATALOG } from "../api/catalog.generated";
import { NONE, path } from "../shared/format";
import { Hint } from "../shared/Hint";
import type { FindingName } from "../state/view";
import { cellOf, type Declared } from "./cells";

type Props = { slug: string; finding: FindingName; row: Row<FindingName> | undefined };

export function RowFile({ slug, finding, row }: Props) {
  if (!row) return null;
  const values = row as Record<string, unknown>;
  const columns: readonly Declared[] = CATALOG[finding].columns;
  const [first, ...rest] = columns;
  const sentence = typeof values.sentence === "string" ? values.sentence : null;
  return (
    <article aria-label="Evidence" className="px-5 py-3">
      <h2 className="text-xl leading-6">{first && <Value slug={slug} column={first} values={values} />}</h2>
      {sentence && <p className="mt-2 font-serif text-lead">{sentence}</p>}
      <dl className="mt-3 grid grid-cols-[auto_1fr] items-center gap-x-4">
        {rest
          .filter((column) => (column.label as string) !== "" && column.name !== "sentence")
          .map((column) => (
            <div key={column.name} className="contents">
              <dt className="text-faint text-xs">
                <Hint text={column.explains}>
                  <button type="button" className="min-h-6 cursor-help text-left">
                    {column.label}
                  </button>
                </Hint>
              </dt>
              <dd className="min-w-0 break-words">
                <Value slug={slug} column={column} values={values} />
              </dd>
            </div>
          ))}
      </dl>
    </article>
  );
}

/** A page or a query leads to its own file. */
function Value({ slug, column, values }: { slug: string; column: Declared; values: Record<string, unknown> }) {
  const value = values[column.name];
  const id = values[`${column.name}_id`];
  if (value == null) return NONE;
  const link = { params: { site: slug }, className: "hover:underline" };
  if (column.kind === "page" && typeof id === "number")
    return (
      <Link to="/$site/pages" search={{ row: String(id) }} {...link}>
        {path(String(value))}
      </Link>
    );
  if (column.kind === "query" && typeof id === "number")
    return (
      <Link to="/$site/query" search={{ query: id }} {...link}>
        {String(value)}
      </Link>
    );
  if (Array.isArray(value)) return value.join(", ");
  return cellOf(column.kind, value);
}
