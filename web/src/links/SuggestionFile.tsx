// One suggested link, handled by single keys: a accepts it and moves on, r dismisses it, o reopens it.
import { useEffect, useState } from "react";
import type { Row } from "../api/ask";
import type { Schemas } from "../api/client";
import { path, share } from "../shared/format";
import { useKeys } from "../shared/keys";
import { PageLink } from "../shared/PageLink";
import { Part } from "../shared/Part";
import { Button, Field, MainButton, Words } from "../shared/parts";
import { Refuse } from "./Refuse";
import { Sentence } from "./Suggestions";
import { useLinking } from "./useLinking";

type Props = { site: Schemas["SiteShown"]; row: Row<"suggested-links"> | undefined; onPage: (page: string) => void };

/** On to the next row, like the list's own key. */
const goOn = () => document.body.dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowDown", bubbles: true }));

export function SuggestionFile({ site, row, onPage }: Props) {
  const decide = useLinking(site.slug);
  const [refusing, setRefusing] = useState(false);
  const key = row ? `${row.from_id}-${row.to_id}` : "";
  const [anchor, setAnchor] = useState("");
  const [sentence, setSentence] = useState("");
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is written belongs to the row
  useEffect(() => {
    setAnchor(row?.anchor ?? "");
    setSentence(row?.sentence ?? "");
  }, [key]);
  const written = row && { ...row, anchor: anchor.trim(), sentence: sentence.trim() || null };
  const take = async () => {
    if (written && (await decide([written], "accepted"))) goOn();
  };
  const leave = () => written && decide([written], "open");
  useKeys(site.may_change && row ? { a: take, r: () => setRefusing(true), o: leave } : {});
  if (!row || !written) return null;
  return (
    <article aria-label="Evidence" className="px-5 py-3" data-testid="suggestion-file">
      <h2 className="text-xl leading-6">
        {path(row.from)} → {path(row.to)}
      </h2>
      <p className="text-faint text-xs">
        <PageLink address={row.from} /> to <PageLink address={row.to} />
      </p>
      <div className="mt-3 border-ink border-l-2 pl-3 text-lg">
        <Sentence sentence={sentence} anchor={anchor} />
      </div>
      <p className="mt-2">
        {row.phrase ? `“${row.phrase}” is already on the page. ` : ""}
        The two are {share(row.similarity)} alike. The link would pass on {share(row.authority_passed)} of the site’s
        authority; with the whole plan {path(row.to)} goes from {share(row.authority_share)} to{" "}
        {share(row.authority_after)}.
      </p>
      {row.choice !== "open" && (
        <p className={`mt-2 ${row.choice === "accepted" ? "text-spruce" : "text-rust"}`} role="status">
          {row.choice === "accepted" ? "Accepted: it is in the list of accepted links." : `Refused: ${row.note}`}
        </p>
      )}
      {site.may_change && (
        <div className="mt-3 flex flex-wrap items-baseline gap-x-4 gap-y-1">
          {row.choice !== "accepted" && (
            <MainButton onClick={take} title="Accept and go on (a)">
              Accept
            </MainButton>
          )}
          {row.choice !== "refused" && (
            <Button onClick={() => setRefusing(true)} title="Refuse (r)">
              Refuse
            </Button>
          )}
          {row.choice !== "open" && (
            <Button plain onClick={leave} title="Skip (o)">
              Skip
            </Button>
          )}
          <Button plain onClick={() => onPage(path(row.to))}>
            All links to {path(row.to)}
          </Button>
        </div>
      )}
      {site.may_change && (
        <Part title="Edit anchor and sentence">
          <div className="space-y-2">
            <Field
              label="anchor text"
              value={anchor}
              maxLength={300}
              onChange={(event) => setAnchor(event.target.value)}
            />
            <Words
              label="sentence"
              value={sentence}
              maxLength={1000}
              onChange={(event) => setSentence(event.target.value)}
            />
          </div>
        </Part>
      )}
      {refusing && <Refuse site={site} links={[written]} close={() => setRefusing(false)} done={goOn} />}
    </article>
  );
}
