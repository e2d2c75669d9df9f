// Pages named on Changes: m, x and s decide on the one under the mouse or focus.
import { Link } from "@tanstack/react-router";
import { createContext, type ReactNode, useContext, useState } from "react";
import { useMarks } from "../api/ask";
import type { Schemas } from "../api/client";
import { MarkWord } from "../moves/MarkWord";
import { useDeciding } from "../moves/useDeciding";
import { path } from "../shared/format";
import type { View, ViewOptions } from "../state/view";

type Pointed = { page: number; name: string };
const Pointing = createContext<(pointed: Pointed) => void>(() => undefined);

type Props = { site: Schemas["SiteShown"]; options: ViewOptions; children: ReactNode };

export function PointedPages({ site, options, children }: Props) {
  const [pointed, setPointed] = useState<Pointed | null>(null);
  const { dialog } = useDeciding({
    site,
    options,
    subjects: pointed ? [{ page: pointed.page }] : [],
    finding: "pages",
    name: pointed?.name ?? "",
    silent: !pointed,
  });
  return (
    <Pointing value={setPointed}>
      {children}
      {dialog}
    </Pointing>
  );
}

type NameProps = { slug: string; page: number; address: string; search: View; aside?: ReactNode };

/** A page by its path, linked to its file, with its decision. */
export function PointedPage({ slug, page, address, search, aside }: NameProps) {
  const point = useContext(Pointing);
  const mark = useMarks(slug).of({ page });
  const here = () => point({ page, name: path(address) });
  return (
    <span className="flex min-w-0 flex-1 items-baseline gap-2" onPointerEnter={here}>
      <Link
        to="/$site/pages"
        params={{ site: slug }}
        search={{ ...search, row: String(page) }}
        title={`${address}: Enter opens its file; m makes a move, x leaves it alone, s sets it aside`}
        onFocus={here}
        className="block min-h-6 min-w-0 truncate leading-6 hover:underline"
      >
        {path(address)}
      </Link>
      {mark && <MarkWord mark={mark} />}
      {aside}
    </span>
  );
}
