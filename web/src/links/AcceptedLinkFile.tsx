// A page to edit, with all links to set on it.
import { Link } from "@tanstack/react-router";
import type { Row } from "../api/ask";
import type { Schemas } from "../api/client";
import { day, path } from "../shared/format";
import { PageLink } from "../shared/PageLink";
import { Button } from "../shared/parts";
import { Sentence } from "./Suggestions";
import { useLinking } from "./useLinking";

type One = Row<"accepted-links">;
export const STATE_LOOKS: Record<One["state"], string> = {
  waiting: "text-faint",
  set: "text-spruce",
  "set otherwise": "text-ochre",
  missing: "text-rust",
};

type Props = { site: Schemas["SiteShown"]; rows: One[]; chosen: One | undefined };

export function AcceptedLinkFile({ site, rows, chosen }: Props) {
  const decide = useLinking(site.slug);
  if (!chosen) return null;
  const known = rows.filter((one) => one.from_id === chosen.from_id);
  const links = known.some((one) => one.id === chosen.id) ? known : [chosen, ...known];
  return (
    <article aria-label="Evidence" className="px-5 py-3" data-testid="work-file">
      <h2 className="text-xl leading-6">Edit {path(chosen.from)}</h2>
      <p>
        <PageLink address={chosen.from} />
        {chosen.move != null && (
          <Link
            to="/$site/moves"
            params={{ site: site.slug }}
            search={{ row: String(chosen.move) }}
            className="ml-3 underline"
          >
            Open the move
          </Link>
        )}
      </p>
      <LinksToSet links={links} />
      {site.may_change && chosen.state !== "set" && (
        <p className="mt-2">
          <Button
            plain
            onClick={() => decide([{ ...chosen, sentence: chosen.sentence ?? null, choice: "accepted" }], "open")}
          >
            Take “{chosen.anchor}” off the list
          </Button>
        </p>
      )}
    </article>
  );
}

/** Links to set on a page, each with its sentence and its state in the last crawl. */
export function LinksToSet({ links }: { links: One[] }) {
  return (
    <ol className="mt-2">
      {links.map((one) => (
        <li key={one.id} className="border-rule border-t py-1.5">
          <Sentence sentence={one.sentence} anchor={one.anchor} />
          <p className="text-xs">
            to {path(one.to)} · <span className={STATE_LOOKS[one.state]}>{one.state}</span>
            {one.found_anchor && ` as “${one.found_anchor}”`}
            <span className="text-faint">
              {" "}
              · taken {one.by && `by ${one.by} `}on {day(one.accepted_on)}
            </span>
          </p>
        </li>
      ))}
    </ol>
  );
}
