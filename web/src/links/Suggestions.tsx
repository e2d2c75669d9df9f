// Suggested links for one page, accepted or dismissed in place.
import { useState } from "react";
import type { Row } from "../api/ask";
import type { Schemas } from "../api/client";
import { path, share } from "../shared/format";
import { Button } from "../shared/parts";
import { Refuse } from "./Refuse";
import { useLinking } from "./useLinking";

type Props = { site: Schemas["SiteShown"]; plan: Row<"suggested-links">[] };

export function Suggestions({ site, plan }: Props) {
  const decide = useLinking(site.slug);
  const [refused, setRefused] = useState<Row<"suggested-links"> | null>(null);
  const open = plan.filter((one) => one.choice === "open");
  return (
    <>
      <ol className="mt-1">
        {plan.map((one) => (
          <li key={one.from_id} className="border-rule border-t py-1.5" data-testid="suggestion">
            <div className="flex flex-wrap items-baseline justify-between gap-x-3">
              <span className="font-medium">{path(one.from)}</span>
              <span className="text-faint text-xs">
                {share(one.similarity)} alike · passes on {share(one.authority_passed)}
              </span>
            </div>
            <Sentence sentence={one.sentence} anchor={one.anchor} />
            <div className="flex flex-wrap items-baseline gap-x-4 text-xs">
              {one.choice !== "open" && (
                <span className={one.choice === "accepted" ? "text-spruce" : "text-rust"}>
                  {one.choice}
                  {one.note && `: ${one.note}`}
                </span>
              )}
              {site.may_change && one.choice === "open" && (
                <>
                  <Button plain className="min-h-6" onClick={() => decide([one], "accepted")}>
                    Accept
                  </Button>
                  <Button plain className="min-h-6" onClick={() => setRefused(one)}>
                    Refuse
                  </Button>
                </>
              )}
              {site.may_change && one.choice !== "open" && (
                <Button plain className="min-h-6" onClick={() => decide([one], "open")}>
                  Skip
                </Button>
              )}
            </div>
          </li>
        ))}
      </ol>
      {site.may_change && open.length > 1 && (
        <Button className="mt-2" onClick={() => decide(open, "accepted")}>
          Take all {open.length}
        </Button>
      )}
      {refused && <Refuse site={site} links={[refused]} close={() => setRefused(null)} />}
    </>
  );
}

/** A sentence with the anchor text marked; without a sentence, what to write. */
export function Sentence({ sentence, anchor }: { sentence: string | null | undefined; anchor: string }) {
  const at = sentence && anchor ? sentence.indexOf(anchor) : -1;
  if (!sentence)
    return (
      <p className="font-serif leading-snug">
        A new sentence with <mark className="bg-picked text-ink">{anchor || "what the page is called"}</mark>.
      </p>
    );
  return (
    <p className="font-serif leading-snug">
      {at < 0 ? sentence : sentence.slice(0, at)}
      {at < 0 && <span className="font-sans text-faint text-xs"> near here, as </span>}
      <mark className="bg-picked text-ink underline">{anchor}</mark>
      {at >= 0 && sentence.slice(at + anchor.length)}
    </p>
  );
}
