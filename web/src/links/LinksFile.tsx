// A page's links: what it needs, its authority and opportunity, suggested sources, and existing links.
import { useQuery } from "@tanstack/react-query";
import { type Answer, linksQuery } from "../api/ask";
import type { Schemas } from "../api/client";
import { Deciding } from "../moves/Deciding";
import { FigureTable } from "../shared/FigureTable";
import { count, many, path, share } from "../shared/format";
import { PageLink } from "../shared/PageLink";
import { Part } from "../shared/Part";
import { Failed, Notice } from "../shared/parts";
import type { ViewOptions } from "../state/view";
import { Exchange } from "./Exchange";
import { Suggestions } from "./Suggestions";

type Props = {
  site: Schemas["SiteShown"];
  options: ViewOptions;
  row: string | undefined;
  squares: Answer<"needs-links">["squares"];
  pick: (page: number) => void;
};
const FIRST = 6;

export function LinksFile({ site, options, row, squares, pick }: Props) {
  const links = useQuery({ ...linksQuery(site.slug, options, row ?? ""), enabled: row !== undefined });
  if (!row) return null;
  if (links.error) return <Failed error={links.error} retry={() => links.refetch()} />;
  const answer = links.data;
  if (!answer) return <Notice title="Reading the links">Link authority is being calculated.</Notice>;
  const { finding } = answer;
  return (
    <article
      aria-label="Evidence"
      data-testid="links-file"
      className={`px-5 py-3 ${links.isPlaceholderData ? "opacity-60" : ""}`}
    >
      <h2 className="text-xl leading-6">{path(finding.page)}</h2>
      <PageLink address={finding.page} />
      <Deciding
        site={site}
        subject={{ page: finding.page_id, query: null }}
        finding="needs-links"
        name={path(finding.page)}
        options={options}
      />
      <p className="mt-2">
        This page gets {share(finding.authority_share)} of the site’s link authority and holds{" "}
        {share(finding.opportunity_share)} of its opportunity ({count(finding.opportunity_month)} clicks a month).{" "}
        {linksWords(finding)}
        {finding.problems.length > 0 && ` Problems: ${finding.problems.join(", ")}.`}
      </p>
      <div className="mt-2">
        <Exchange squares={squares} chosen={finding.page_id} after={answer.authority_after} pick={pick} />
      </div>
      <Part title="Pages that could link to it" method="suggested-links">
        {answer.sentences.map((one) => (
          <p key={one}>{one}</p>
        ))}
        <Suggestions site={site} plan={answer.plan} />
      </Part>
      {answer.faults.length > 0 && (
        <Part title="To mend">
          <FigureTable
            rows={answer.faults}
            first={FIRST}
            keyOf={(one) => `${one.from} ${one.to} ${one.anchor} ${one.fault}`}
            columns={[
              { head: "from, to", cell: (one) => `${path(one.from)} → ${path(one.to)}`, look: "break-all" },
              { head: "anchor", cell: (one) => one.anchor || "none", left: true },
              { head: "problem", cell: (one) => one.fault, left: true },
            ]}
          />
        </Part>
      )}
      <Listed title="Links to this page" links={answer.inward} none="No page of the site links to it." />
      <Listed title="Links on this page" links={answer.outward} none="It has no links." />
    </article>
  );
}

function linksWords(row: Schemas["NeedsLinksRow"]): string {
  const inside = row.links_in
    ? `${many(row.links_in, "page")} of the site ${row.links_in === 1 ? "links" : "link"} to it, ${count(row.links_in_body)} in the body`
    : "No page of the site links to it";
  const sites = row.referring_domains
    ? `; so ${row.referring_domains === 1 ? "does" : "do"} ${many(row.referring_domains, "other site")}`
    : "";
  const far = row.depth == null ? "" : ` It is ${many(row.depth, "click")} from the start.`;
  return `${inside}${sites}.${far}`;
}

function Listed({ title, links, none }: { title: string; links: Schemas["LinkShown"][]; none: string }) {
  return (
    <Part title={title}>
      {links.length === 0 ? (
        <p className="text-faint">{none}</p>
      ) : (
        <FigureTable
          rows={links}
          first={FIRST}
          keyOf={(one) => one.address}
          columns={[
            { head: "page", cell: (one) => path(one.address), look: "break-all" },
            { head: "anchors", cell: (one) => one.anchors.join(", ") || "none", left: true },
            { head: "where", cell: (one) => (one.in_body ? "body" : "navigation"), left: true },
          ]}
        />
      )}
    </Part>
  );
}
