// Everything about one topic: seasonality, intent, the site's pages, competitors, content gaps.
import { Link } from "@tanstack/react-router";
import { type FormEvent, useId, useState } from "react";
import { type Row, useFinding } from "../api/ask";
import type { Schemas } from "../api/client";
import { Dialog } from "../shared/Dialog";
import { FigureTable } from "../shared/FigureTable";
import { count, NONE, path, place, share } from "../shared/format";
import { Part, Parts } from "../shared/Part";
import { Button, Field, MainButton } from "../shared/parts";
import type { ViewOptions } from "../state/view";
import { Season } from "./Season";
import { useTopics } from "./useTopics";
import { WANTS } from "./words";

type Props = { site: Schemas["SiteShown"]; options: ViewOptions; row: Row<"topics"> | undefined; all: Row<"topics">[] };
const QUERIES = 15;

export function TopicFile({ site, options, row, all }: Props) {
  const { text: _, ...plain } = options;
  const own = { ...plain, topic: row ? [row.topic] : [] };
  const queries = useFinding(site.slug, "topic-queries", own, { enabled: row !== undefined, limit: QUERIES });
  const missing = useFinding(site.slug, "content-gaps", own, { enabled: row !== undefined });
  if (!row) return null;
  const params = { site: site.slug };
  return (
    <article aria-label="Evidence" className="px-5 py-3" data-testid="topic-file">
      <h2 className="text-xl leading-6">{row.topic}</h2>
      <p className="mt-1">{sentence(row, site.currency)}</p>
      <p className="mt-1 flex flex-wrap gap-x-4 text-xs">
        <Link to="/$site/queries" params={params} search={{ topic: [row.topic] }} className="link">
          Show rows in Queries
        </Link>
        <Link to="/$site/pages" params={params} search={{ topic: [row.topic] }} className="link">
          Its pages
        </Link>
        <Link to="/$site/clashes" params={params} search={{ topic: [row.topic] }} className="link">
          Its clashes
        </Link>
      </p>
      {site.may_change && <Change site={site} row={row} all={all} />}
      <Parts>
        <Part title="Seasonality" method="topics">
          <Season row={row} />
        </Part>
        <Part title="Search intent">
          {row.intent ? (
            <>
              <p>
                Mostly {row.intent} ({WANTS[row.intent]}).
              </p>
              <ul className="list-disc pl-4 text-faint text-xs">
                {row.intent_reasons?.map((one) => (
                  <li key={one}>{one}</li>
                ))}
              </ul>
            </>
          ) : (
            <p className="text-faint">Neither its words nor SERPs show it.</p>
          )}
        </Part>
        <Part title="Who ranks">
          {row.instead?.length ? (
            <p>
              On {count(row.captured)} captured {row.captured === 1 ? "SERP" : "SERPs"}, most often{" "}
              {row.instead.join(", ")}.
              {row.competition != null && ` The median competing page has ${count(row.competition)} referring domains.`}
            </p>
          ) : (
            <p className="text-faint">No SERP captures.</p>
          )}
        </Part>
        {(missing.data?.rows.length ?? 0) > 0 && (
          <Part title="Content gaps" method="content-gaps">
            <ul>
              {missing.data?.rows.map((one) => (
                <li key={one.query_id}>
                  <Link
                    to="/$site/topics"
                    params={params}
                    search={{ finding: "content-gaps", row: String(one.query_id) }}
                    className="link"
                  >
                    {one.query}
                  </Link>{" "}
                  <span className="text-faint text-xs">{one.reason}</span>
                </li>
              ))}
            </ul>
          </Part>
        )}
        <Part title={`Its queries (${count(row.queries)})`}>
          <FigureTable
            rows={queries.data?.rows ?? []}
            first={QUERIES}
            keyOf={(one) => String(one.query_id)}
            columns={[
              { head: "query", cell: (one) => one.query, look: "break-words" },
              { head: "searches", cell: (one) => count(one.searches) },
              { head: "impressions", cell: (one) => count(one.shown) },
              { head: "position", cell: (one) => place(one.position) },
              { head: "your page", cell: (one) => (one.page ? path(one.page) : NONE), left: true },
            ]}
          />
          <Link
            to="/$site/topics"
            params={params}
            search={{ finding: "topic-queries", topic: [row.topic] }}
            className="link text-xs"
          >
            All queries, to split some off
          </Link>
        </Part>
      </Parts>
    </article>
  );
}

function sentence(row: Row<"topics">, currency: string): string {
  const searched = row.searches == null ? "" : `Searched ${count(row.searches)} times a month. `;
  const won = row.share_won == null ? "" : `, ${share(row.share_won)} of its searches`;
  const ours = row.pages
    ? `${count(row.pages)} of your pages rank for it, at ${place(row.position)}, and get ${count(row.clicks)} clicks a month${won}. Opportunity: ${count(row.opportunity_month)} more clicks a month.`
    : "None of your pages ranks for it.";
  const price =
    row.price_per_click == null ? "" : ` A click costs ${currency}${row.price_per_click.toFixed(2)} on the market.`;
  return `${searched}${ours}${price} Grouped by ${row.rests_on}.`;
}

/** Rename, merge, drop: remembered over new data. */
function Change({ site, row, all }: { site: Schemas["SiteShown"]; row: Row<"topics">; all: Row<"topics">[] }) {
  const edit = useTopics(site.slug);
  const [asks, setAsks] = useState<"name" | "join" | null>(null);
  const list = useId();
  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const typed = String(new FormData(event.currentTarget).get("name") ?? "").trim();
    const other = all.find((one) => one.topic === typed);
    if (asks === "join" && !other) return;
    const saved =
      asks === "name"
        ? await edit("name", [row.topic_id], `It is called “${typed}” now.`, typed)
        : await edit("join", [row.topic_id, other?.topic_id ?? 0], `“${row.topic}” and “${typed}” are one topic.`);
    if (saved) setAsks(null);
  }
  return (
    <div className="mt-2 flex flex-wrap gap-x-4 border-rule border-y py-1.5">
      <Button plain onClick={() => setAsks("name")}>
        Rename
      </Button>
      <Button plain onClick={() => setAsks("join")}>
        Join with another
      </Button>
      <Button plain onClick={() => edit("drop", [row.topic_id], `“${row.topic}” is no topic of this site.`)}>
        Drop
      </Button>
      <Dialog
        title={asks === "name" ? "Rename the topic" : "Merge with another topic"}
        open={asks !== null}
        onOpen={(open) => !open && setAsks(null)}
      >
        <form onSubmit={submit} className="space-y-3">
          <Field
            label={asks === "name" ? "name" : "the other topic"}
            name="name"
            required
            maxLength={200}
            defaultValue={asks === "name" ? row.topic : ""}
            list={asks === "join" ? list : undefined}
            pattern={asks === "join" ? others(all, row).map(escaped).join("|") : undefined}
            title="Choose from the list."
            autoComplete="off"
          />
          <datalist id={list}>
            {others(all, row).map((one) => (
              <option key={one} value={one} />
            ))}
          </datalist>
          <MainButton type="submit">{asks === "name" ? "Rename" : "Join"}</MainButton>
        </form>
      </Dialog>
    </div>
  );
}

const others = (all: Row<"topics">[], row: Row<"topics">) =>
  all.filter((one) => one.topic_id !== row.topic_id).map((one) => one.topic);
const escaped = (text: string) => text.replace(/[.*+?^${}()|[\]\\/-]/g, "\\$&");
