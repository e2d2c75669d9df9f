// A content gap: the reason, the deadline, its queries, and an outline.
import type { Row } from "../api/ask";
import type { Schemas } from "../api/client";
import { useBegin } from "../drafts/useBegin";
import { Deciding } from "../moves/Deciding";
import { download } from "../shared/export";
import { day } from "../shared/format";
import { useKeys } from "../shared/keys";
import { Part } from "../shared/Part";
import { Button } from "../shared/parts";
import type { ViewOptions } from "../state/view";
import { MONTHS, WANTS } from "./words";

type Props = { site: Schemas["SiteShown"]; options: ViewOptions; row: Row<"content-gaps"> | undefined };

export function ContentGapFile({ site, options, row }: Props) {
  const begin = useBegin(site.slug);
  const draft = () => row && site.may_change && begin(row.query_id, null, options);
  useKeys({ d: draft });
  if (!row) return null;
  const peak = row.peak_month ? MONTHS[row.peak_month - 1] : null;
  return (
    <article aria-label="Evidence" className="px-5 py-3" data-testid="to-write-file">
      <h2 className="text-xl leading-6">{row.query}</h2>
      {row.topic && <p className="text-faint">of the topic “{row.topic}”</p>}
      <Deciding
        site={site}
        subject={{ page: null, query: row.query_id }}
        finding="content-gaps"
        name={row.query}
        options={options}
      />
      <p className="mt-2 flex flex-wrap gap-3">
        {site.may_change && (
          <Button onClick={draft} title="Start a draft and a move (d)">
            Draft it
          </Button>
        )}
        <Button onClick={() => download(`/api/sites/${site.slug}/brief/${row.query_id}/document`)}>
          Brief for a writer (DOCX)
        </Button>
      </p>
      <p className="mt-2">{row.reason}</p>
      <p className="mt-1">
        {row.intent ? `Mostly ${row.intent} (${WANTS[row.intent]}). ` : ""}
        {peak
          ? `Most is searched in ${peak}${row.ready_by ? `: it should stand by ${day(row.ready_by)}` : ""}.`
          : "Seasonality unknown."}
      </p>
      <Part title="Outline" method="content-gaps">
        {row.outline.length ? (
          <ol className="list-decimal pl-5">
            {row.outline.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ol>
        ) : (
          <p className="text-faint">
            No question is among its queries, and no competing page was fetched. Capture its SERP and fetch the
            competing pages.
          </p>
        )}
      </Part>
      <Part title="Its queries">
        <ul className="columns-2 gap-x-6">
          {row.queries.map((one) => (
            <li key={one}>{one}</li>
          ))}
        </ul>
      </Part>
    </article>
  );
}
