import { Link } from "@tanstack/react-router";
import { type ReactNode, useEffect } from "react";
import { useSite } from "../frame/useSite";
import { SiteName } from "../listing/TopLine";

const PARTS = [
  { to: "/$site/data", name: "Sources" },
  { to: "/$site/data/cleaning", name: "Cleaning" },
  { to: "/$site/data/loads", name: "Loads" },
] as const;

/** The head of Data's three pages: its subject, and links between them. */
export function DataHead({ says, children }: { says: string; children?: ReactNode }) {
  const { slug, site } = useSite();
  useEffect(() => {
    document.title = `Data · ${site?.name ?? ""} · Zugzwang`;
  }, [site?.name]);
  return (
    <header className="flex flex-wrap items-end gap-x-6 gap-y-2">
      <div className="min-w-0 flex-1 basis-80">
        {site && <SiteName site={site} to="/$site/data" />}
        <h1 className="text-2xl">Data</h1>
        <p className="mt-0.5 flex min-h-8 flex-wrap items-baseline gap-x-3 text-faint">
          {says} <span className="text-ink">{children}</span>
        </p>
      </div>
      <nav aria-label="Parts of Data" className="flex gap-5 border-rule border-b">
        {PARTS.map((part) => (
          <Link
            key={part.to}
            to={part.to}
            params={{ site: slug }}
            activeOptions={{ exact: true, includeSearch: false }}
            activeProps={{ className: "border-ink", "aria-current": "page" }}
            inactiveProps={{ className: "border-transparent text-faint" }}
            className="-mb-px border-b-2 py-1 font-serif text-base hover:text-ink"
          >
            {part.name}
          </Link>
        ))}
      </nav>
    </header>
  );
}
