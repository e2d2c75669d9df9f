// Who holds the featured snippet, with what passage, and what the site's page lacks.
import type { Schemas } from "../api/client";
import { count, day } from "../shared/format";

export function FeaturedSnippet({ answer }: { answer: Schemas["BoxShown"] }) {
  const { finding, ours, holder } = answer;
  return (
    <>
      <div className="space-y-1 font-serif text-lead">
        {finding.lost_since && <p>You lost it on {day(finding.lost_since)}.</p>}
        {finding.ours ? (
          <p>You hold the featured snippet. Change its passage with care: the page has no other result on this SERP.</p>
        ) : (
          <p>
            {finding.holder ?? "Another site"} holds it{finding.kind && ` with a ${finding.kind}`}.
            {finding.opening && ` You could win it: about ${count(finding.gain)} clicks a month.`}
            {finding.advice === "rank on page one first" && " Featured snippets come from page one. Rank there first."}
          </p>
        )}
        {finding.opening && finding.rank != null && finding.rank <= 3 && (
          <p>The page in the featured snippet usually loses its normal result. Compare with what you get today.</p>
        )}
        {finding.lacking.length > 0 && <p>Your page lacks {finding.lacking.join(", and ")}.</p>}
      </div>
      <dl className="mt-2 grid grid-cols-2 gap-x-5 max-sm:grid-cols-1">
        <Passage
          name={`featured snippet${holder ? ", from its page" : ""}`}
          answer={holder}
          said={finding.passage ?? null}
        />
        <Passage name="your page" answer={ours} said={null} />
      </dl>
    </>
  );
}

/** The passage right below the heading, in numbers. */
function counted({ characters, words, items, cells }: Schemas["PassageShown"]) {
  const answer = [
    characters > 0 && `${count(characters)} characters in ${count(words)} words`,
    items > 0 && `${count(items)} items of a list`,
    cells > 0 && `${count(cells)} cells of a table`,
  ].filter(Boolean);
  return answer.length ? `Right below: ${answer.join(", ")}.` : "No text right below it.";
}

function Passage({
  name,
  answer,
  said,
}: {
  name: string;
  answer: Schemas["PassageShown"] | null;
  said: string | null;
}) {
  return (
    <div className="border-rule border-t pt-1">
      <dt className="text-faint text-xs">{name}</dt>
      <dd>
        {answer?.heading && <p className="font-semibold">{answer.heading}</p>}
        {said && <p className="line-clamp-4 italic">{said}</p>}
        {answer?.text && <p className="line-clamp-4">{answer.text}</p>}
        {!answer && !said && <p>No heading asks the question, and no sentence defines the term.</p>}
        {answer && <p className="text-faint text-xs">{counted(answer)}</p>}
      </dd>
    </div>
  );
}
