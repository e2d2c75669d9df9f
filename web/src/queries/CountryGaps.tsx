// Queries that rank worse in one country than in others, with their evidence and links to the query.
import { Link } from "@tanstack/react-router";
import type { Row } from "../api/ask";
import type { Schemas } from "../api/client";
import { FindingPlace, type PlaceProps } from "../listing/FindingPlace";
import { EvidenceMark } from "../shared/EvidenceMark";
import { count, place, share } from "../shared/format";
import { Notice } from "../shared/parts";
import { optionsOf } from "../state/view";

type Gap = Row<"country-gaps">;

export function CountryGaps(props: PlaceProps) {
  return (
    <FindingPlace
      {...props}
      finding="country-gaps"
      options={optionsOf(props.search)}
      look={() => ({
        least: 36,
        rowHeight: 30,
        near: () => undefined,
        widths: { country: "3.6rem", gap: "3rem", elsewhere: "4.4rem", evidence: "4rem" },
        empty: (
          <Notice title="No country gaps">
            No query ranks clearly worse in one country, or the data have no countries.
          </Notice>
        ),
        waiting: <Notice title="Comparing countries">Comparing positions week by week.</Notice>,
      })}
      evidence={(_, __, found) => found && <GapFile site={props.site} found={found} />}
    />
  );
}

function GapFile({ site, found }: { site: Schemas["SiteShown"]; found: Gap }) {
  return (
    <article aria-label="Evidence" className="px-5 py-3">
      <h2 className="text-xl leading-6">
        <Link
          to="/$site/query"
          params={{ site: site.slug }}
          search={{ query: found.query_id }}
          className="hover:underline"
        >
          {found.query}
        </Link>
      </h2>
      <div className="mt-2 space-y-1 font-serif text-[15px] leading-snug">
        <p>
          In {found.country} it ranks at {place(found.position)}, elsewhere at {place(found.elsewhere)}:{" "}
          {place(found.gap)} positions worse, over {count(found.weeks)} weeks. <EvidenceMark grade={found.evidence} />
        </p>
        <p>
          There it had {count(found.impressions)} impressions ({share(found.share_shown)} of all) and{" "}
          {count(found.clicks)} clicks. SERPs differ by country: check whether another page or language fits better
          there.
        </p>
      </div>
    </article>
  );
}
