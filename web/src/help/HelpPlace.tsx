// Help: the user guide, how each number is calculated, and the terms, with a search over all of them.
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { lazy, Suspense, useEffect, useMemo, useState } from "react";
import { ask } from "../api/ask";
import { useSite } from "../frame/useSite";
import { Failed } from "../shared/parts";
import type { HelpSearch } from "../state/view";
import { findIn, type HelpPage } from "./find";

const HelpText = lazy(() => import("./HelpText"));
const STEADY = { staleTime: Number.POSITIVE_INFINITY };

export function HelpPlace() {
  const { slug } = useSite();
  const search: HelpSearch = useSearch({ strict: false });
  const navigate = useNavigate();
  const [typed, setTyped] = useState("");
  const guide = ask.useQuery("get", "/api/guide", {}, STEADY);
  const methods = ask.useQuery("get", "/api/methods", {}, STEADY);
  const pages = useMemo<HelpPage[]>(
    () => [
      ...(guide.data ?? []).map((one) => ({ ...one, group: "Guide" as const })),
      ...(methods.data ?? []).map((one) => ({
        ...one,
        group: one.name === "words" ? ("Words" as const) : ("How it's calculated" as const),
      })),
    ],
    [guide.data, methods.data],
  );
  const page = pages.find((one) => one.name === (search.page ?? "first-hour"));
  useEffect(() => {
    document.title = `${page?.title ?? "Help"} · Help · Zugzwang`;
  }, [page?.title]);
  const failed = guide.error ?? methods.error;
  if (failed) return <Failed error={failed} retry={() => Promise.all([guide.refetch(), methods.refetch()])} />;
  const open = (name: string) => navigate({ to: "/$site/help", params: { site: slug }, search: { page: name } });
  const hits = findIn(pages, typed);
  return (
    <div className="flex min-h-0 flex-1 flex-col sm:flex-row">
      <nav
        aria-label="Help"
        className="max-h-60 shrink-0 overflow-auto border-rule border-r px-4 py-3 sm:max-h-none sm:w-64"
      >
        <h1 className="mb-2 text-xl">Help</h1>
        <input
          id="list-search"
          type="search"
          aria-label="Search in Help"
          placeholder="Search in Help"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          className="mb-3 w-full border border-strong-rule bg-sheet px-2 py-1"
        />
        {typed.trim() ? (
          <>
            <p role="status" className="mb-1 text-faint text-xs">
              {hits.length === 0 ? `Nothing about “${typed.trim()}”. Try fewer words.` : `${hits.length} found`}
            </p>
            <Pages slug={slug} pages={hits} chosen={page?.name} line={(one) => (one as { line?: string }).line} />
          </>
        ) : (
          (["Guide", "How it's calculated", "Words"] as const).map((group) => (
            <details key={group} open={group === "Guide" || page?.group === group} className="mb-2">
              <summary className="font-semibold font-serif">{group}</summary>
              <Pages slug={slug} pages={pages.filter((one) => one.group === group)} chosen={page?.name} />
            </details>
          ))
        )}
      </nav>
      <article className="min-w-0 flex-1 overflow-auto px-6 py-4">
        {page ? (
          <div className="max-w-2xl">
            <h2 className="mb-2 text-2xl">{page.title}</h2>
            <Suspense fallback={null}>
              <HelpText text={page.text} open={open} />
            </Suspense>
          </div>
        ) : (
          guide.data && <p className="text-faint">Help has no such page. Choose one on the left.</p>
        )}
      </article>
    </div>
  );
}

type PagesProps = {
  slug: string;
  pages: readonly HelpPage[];
  chosen: string | undefined;
  line?: (one: HelpPage) => string | undefined;
};

function Pages({ slug, pages, chosen, line }: PagesProps) {
  return (
    <ul>
      {pages.map((one) => (
        <li key={one.name}>
          <Link
            to="/$site/help"
            params={{ site: slug }}
            search={{ page: one.name }}
            aria-current={one.name === chosen ? "page" : undefined}
            className={`block py-1 hover:underline ${one.name === chosen ? "font-semibold" : ""}`}
          >
            {one.title}
            {line?.(one) && <span className="block font-normal text-faint text-xs">{line(one)}</span>}
          </Link>
        </li>
      ))}
    </ul>
  );
}
