// A mention: its sentence, and what to do about it.
import type { Row } from "../api/ask";
import type { Schemas } from "../api/client";
import { count, path } from "../shared/format";
import { PageLink } from "../shared/PageLink";
import { MainButton } from "../shared/parts";
import { Sentence } from "./Suggestions";
import { useLinking } from "./useLinking";

const KIND_WORDS: Record<Row<"mentions">["kind"], string> = {
  "not linked": "The phrase is on the page without a link. Adding one takes one edit.",
  linked: "The page links to it already.",
  "heading only": "The phrase is only in a heading. Link from the text below it.",
  "in another link": "The phrase is in a link to another page. Check whether it should link to this one.",
  "no internal mention":
    "No other page has the phrase, so none can link with it. Add a sentence about it to a related page.",
};

export function MentionFile({ site, row }: { site: Schemas["SiteShown"]; row: Row<"mentions"> | undefined }) {
  const decide = useLinking(site.slug);
  if (!row) return null;
  const target = row.target_id;
  return (
    <article aria-label="Evidence" className="px-5 py-3" data-testid="mention-file">
      <h2 className="text-xl leading-6">“{row.phrase}”</h2>
      <p>
        on <PageLink address={row.page} />
      </p>
      {row.sentence && (
        <div className="mt-3 border-ink border-l-2 pl-3 text-lg">
          <Sentence sentence={row.sentence} anchor={found(row.sentence, row.phrase)} />
        </div>
      )}
      <p className="mt-2">
        {count(row.times)} × in running text, {count(row.in_links)} × in links, {count(row.in_headings)} × in headings.
      </p>
      <p className="mt-1">
        {row.target
          ? `${KIND_WORDS[row.kind]} It means ${path(row.target)}.`
          : "It is no page’s main query: choose the page it should link to."}
      </p>
      {site.may_change && row.kind === "not linked" && target != null && row.target && (
        <MainButton
          className="mt-3"
          onClick={() =>
            decide(
              [
                {
                  from_id: row.page_id,
                  to_id: target,
                  from: row.page,
                  to: row.target ?? "",
                  anchor: found(row.sentence ?? "", row.phrase),
                  sentence: row.sentence ?? null,
                  choice: "open",
                },
              ],
              "accepted",
            )
          }
        >
          Accept the link
        </MainButton>
      )}
    </article>
  );
}

/** The phrase as the sentence writes it, whatever its case; as requested where it occurs in other forms. */
function found(sentence: string, phrase: string): string {
  const at = sentence.toLowerCase().indexOf(phrase.toLowerCase());
  return at < 0 ? phrase : sentence.slice(at, at + phrase.length);
}
