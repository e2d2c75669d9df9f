import { Link } from "@tanstack/react-router";
import { type ReactNode, useEffect } from "react";
import { useSite } from "../frame/useSite";
import { PlaceLine } from "../listing/PlaceLine";

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
    <>
      {site && (
        <PlaceLine site={site} to="/$site/data">
          <p className="text-faint">{says}</p>
          {children}
        </PlaceLine>
      )}
      <h1 className="sr-only">Data</h1>
      <nav aria-label="Parts of Data" className="flex gap-x-5 border-rule border-b px-4 pt-1.5 pb-1">
        {PARTS.map((part) => (
          <Link
            key={part.to}
            to={part.to}
            params={{ site: slug }}
            activeOptions={{ exact: true, includeSearch: false }}
            activeProps={{ className: "border-ink font-semibold", "aria-current": "page" }}
            inactiveProps={{ className: "border-transparent text-faint" }}
            className="min-h-6 border-b-2 font-serif text-lead hover:text-ink"
          >
            {part.name}
          </Link>
        ))}
      </nav>
    </>
  );
}
