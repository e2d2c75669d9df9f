// A broken link: what is wrong with it, and what to do.
import type { Row } from "../api/ask";
import type { Schemas } from "../api/client";
import { Deciding } from "../moves/Deciding";
import { count, path } from "../shared/format";
import { PageLink } from "../shared/PageLink";
import type { ViewOptions } from "../state/view";

type One = Row<"broken-links">;
const TO_DO: Record<One["fault"], string> = {
  "to a redirect": "Link to the redirect's target: it saves readers and crawlers a step.",
  "to a missing page": "Link to the page that replaced it, or remove the link.",
  "from another site, to a missing page":
    "Redirect the missing address to the closest page, or the value of the link is lost.",
  "vague anchor": "Use an anchor that names the page's subject: its main query or a variant.",
  "one anchor, several pages": "Use an anchor that distinguishes this page from the others.",
  "another page's main query": "Link to the page whose main query this is, or choose another anchor.",
};

export function BrokenLinkFile({
  site,
  options,
  row,
}: {
  site: Schemas["SiteShown"];
  options: ViewOptions;
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
          options={options}
        />
      )}
      <p className="mt-2">
        Anchor: {row.anchor ? <mark className="bg-picked text-ink">{row.anchor}</mark> : "nothing"} and leads to{" "}
        <PageLink address={row.to} />
        {row.leads_to && <>, which has moved to {path(row.leads_to)}</>}.
      </p>
      <p className="mt-2">
        <strong className="font-semibold">{row.fault}.</strong> {TO_DO[row.fault]}
      </p>
    </article>
  );
}
