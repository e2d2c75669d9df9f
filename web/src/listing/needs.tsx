// Which lists a site has the data for, and what the others need.
import { Link } from "@tanstack/react-router";
import { CATALOG, KINDS } from "../api/catalog.generated";
import type { Schemas } from "../api/client";
import { Notice } from "../shared/parts";
import type { FindingName } from "../state/view";

type Site = Schemas["SiteShown"];
type Source = Site["sources"][number];

/** What a finding still needs on this site, in words; empty: nothing. */
function lackingFor(site: Site, finding: FindingName): string[] {
  const groups = CATALOG[finding].needs as readonly (readonly Source[])[];
  return groups
    .filter((group) => !group.some((source) => site.sources.includes(source)))
    .map((group) => (group[0] ? KINDS[group[0]].needed : ""));
}

/** The first of a place's lists with data, otherwise the first. */
export function firstOpen<Name extends FindingName>(site: Site, findings: readonly Name[]): Name {
  return findings.find((name) => lackingFor(site, name).length === 0) ?? (findings[0] as Name);
}

/** The lists shown as tabs: those with data, and the one in the address. */
export function openOf(site: Site, findings: readonly FindingName[], chosen: FindingName): FindingName[] {
  return findings.filter((name) => name === chosen || lackingFor(site, name).length === 0);
}

/** One line instead of tabs without data: "Also possible with a crawl: missing queries, titles." */
export function AlsoPossible({ site, findings }: { site: Site; findings: readonly FindingName[] }) {
  const byNeed = new Map<string, string[]>();
  for (const name of findings) {
    const need = lackingFor(site, name).join(" and ");
    if (need) byNeed.set(need, [...(byNeed.get(need) ?? []), CATALOG[name].title.toLowerCase()]);
  }
  if (byNeed.size === 0) return null;
  const parts = [...byNeed].map(([need, names]) => `with ${need}: ${names.join(", ")}`);
  return (
    <p className="border-rule border-b px-4 py-1 text-faint text-xs">
      Also possible {parts.join("; ")}.{" "}
      <Link to="/$site/data" params={{ site: site.slug }} search={{}} className="link">
        Add data
      </Link>
    </p>
  );
}

/** Shown instead of a list without data; null where it has data. */
export function neededFirst(site: Site, finding: FindingName) {
  const needs = lackingFor(site, finding);
  if (needs.length === 0) return null;
  return (
    <Notice
      title={`${CATALOG[finding].title}: possible with ${needs.join(" and ")}`}
      action={
        <Link to="/$site/data" params={{ site: site.slug }} search={{}} className="link">
          Add it in Data
        </Link>
      }
    >
      {CATALOG[finding].question}
    </Notice>
  );
}
