// Where a page mentions a query, from top to bottom.

import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { type Row, stripQuery } from "../api/ask";
import type { Schemas } from "../api/client";
import { Deciding } from "../moves/Deciding";
import { count, many, path, place, share } from "../shared/format";
import { Meaning } from "../shared/Hint";
import { PageLink } from "../shared/PageLink";
import { Part } from "../shared/Part";
import { Button, Failed, Notice } from "../shared/parts";
import type { ViewOptions } from "../state/view";
import { rowSubject } from "../state/view";
import { Strip } from "./Strip";

type Props = {
  site: Schemas["SiteShown"];
  options: ViewOptions;
  row: string | undefined;
  phrase?: string;
  won?: Row<"competitor-queries">;
};

export function MissingQueryFile({ site, options, row, phrase, won }: Props) {
  const { page, query } = rowSubject(row ?? "0-0");
  const [typed, setTyped] = useState<{ of: string; phrase: string } | null>(null);
  const own = typed?.of === row ? typed?.phrase : phrase;
  const strip = useQuery({
    ...stripQuery(site.slug, options, page ?? 0, query ?? undefined, own),
    enabled: page !== null && row !== undefined,
  });
  if (!row) return null;
  if (strip.error) return <Failed error={strip.error} retry={() => strip.refetch()} />;
  const answer = strip.data;
  if (!answer) return <Notice title="Loading the page">Counting its words.</Notice>;
  function look(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const asks = String(new FormData(event.currentTarget).get("phrase") ?? "").trim();
    setTyped(asks ? { of: row ?? "", phrase: asks } : null);
  }
  const found = answer.finding;
  return (
    <article
      aria-label="Evidence"
      className={`px-5 py-3 ${strip.isPlaceholderData ? "opacity-60" : ""}`}
      data-testid="strip"
    >
      <h2 className="text-xl leading-6">{answer.phrase}</h2>
      <PageLink address={answer.page} />
      <Deciding
        site={site}
        subject={{ page, query: query || null }}
        finding="missing-queries"
        name={`“${answer.phrase}” on ${path(answer.page)}`}
        options={options}
      />
      <div className="mt-2 space-y-1 font-serif text-lead">
        <p>{answer.sentence}</p>
        {found && found.what_to_do !== "leave it" && <p>What to do: {found.what_to_do}.</p>}
        {found && (
          <p>
            {count(found.impressions)} impressions at position {place(found.position)}. Opportunity: {count(found.gain)}{" "}
            clicks a month.
          </p>
        )}
        {won && (
          <p>
            {won.won_by.replace(/^https?:\/\//, "")} gets about {count(won.visits)} visits a month from it; your page
            had {count(won.shown)} impressions.
          </p>
        )}
      </div>
      <Part title={<Meaning of="strip">The page from top to bottom</Meaning>} method="missing-queries">
        <Strip answer={answer} />
      </Part>
      <Part title="Check another phrase">
        <form onSubmit={look} className="flex gap-2" key={row}>
          <input
            name="phrase"
            aria-label="phrase"
            maxLength={200}
            defaultValue={typed?.of === row ? typed?.phrase : ""}
            placeholder="any words"
            className="w-full border border-strong-rule bg-sheet px-2 py-1"
          />
          <Button type="submit">Look</Button>
        </form>
      </Part>
      <Part title="Current text">
        <p>
          {many(answer.words, "word")}, {many(answer.headings.length, "heading")}, {many(answer.lists, "list")},{" "}
          {many(answer.tables, "table")}; {many(answer.long_paragraphs, "paragraph")} of more than 120 words.
          {found?.competing_median != null &&
            ` Competing pages have it ${place(found.competing_median)} times in 1,000 words (median), yours ${place(found.per_thousand)}.`}
          {answer.first_use_share != null && ` First appears at ${share(answer.first_use_share)} of the text.`}
        </p>
      </Part>
    </article>
  );
}
