// A link to mend: what is wrong with it, and what to do.
import type { Row } from "../api/ask";
import type { Schemas } from "../api/client";
import { Deciding } from "../moves/Deciding";
import { count, path } from "../shared/format";
import { PageLink } from "../shared/PageLink";
import type { Asked } from "../state/view";

type One = Row<"broken-links">;
const TO_DO: Record<One["fault"], string> = {
  "to a redirect": "Point the link to where the redirect leads: readers and crawlers save a step.",
  "to a gone page": "Point it to the page that took its place, or take the link out.",
  "from another site, to a gone page":
    "Redirect the gone address to the page that answers the same: what the other site’s link is worth is lost otherwise.",
  "says nothing": "Say in the link what the page is about: its main query, or another way to say it.",
  "one anchor, several pages":
    "Say what sets this page apart, so that neither readers nor search engines take one for the other.",
  "says another page's main query": "Point the link to the page whose main query it says, or choose other words.",
};

export function BrokenLinkFile({
  site,
  asked,
  row,
}: {
  site: Schemas["SiteShown"];
  asked: Asked;
  row: One | undefined;
}) {
  if (!row) return null;
  return (
    <article aria-label="Evidence" className="px-5 py-3" data-testid="fault-file">
      <h2 className="text-xl leading-6">
        {path(row.from)} → {path(row.to)}
      </h2>
      <p>
        on <PageLink address={row.from} />
        {row.pages > 1 && ` and ${count(row.pages - 1)} more`}
      </p>
      {row.page_id != null && (
        <Deciding
          site={site}
          subject={{ page: row.page_id, query: null }}
          finding="broken-links"
          name={path(row.from)}
          asked={asked}
        />
      )}
      <p className="mt-2">
        The link says {row.anchor ? <mark className="bg-picked text-ink">{row.anchor}</mark> : "nothing"} and leads to{" "}
        <PageLink address={row.to} />
        {row.leads_to && <>, which has moved to {path(row.leads_to)}</>}.
      </p>
      <p className="mt-2">
        <strong className="font-semibold">{row.fault}.</strong> {TO_DO[row.fault]}
      </p>
    </article>
  );
}
