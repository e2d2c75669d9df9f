// One clash: why it is of its kind, its days, its contenders side by side, what to do.
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { clashQuery } from "../api/ask";
import type { Schemas } from "../api/client";
import { Deciding } from "../moves/Deciding";
import { FigureTable } from "../shared/FigureTable";
import { count, NONE, path, place, share, shorten } from "../shared/format";
import { MeasureCards } from "../shared/MeasureCards";
import { Part } from "../shared/Part";
import { Picture } from "../shared/Picture";
import { Failed } from "../shared/parts";
import type { ViewOptions } from "../state/view";
import { Relay } from "./Relay";
import { Settle } from "./Settle";

type Props = {
  site: Schemas["SiteShown"];
  options: ViewOptions;
  row: string | undefined;
  period: Schemas["PeriodShown"] | undefined;
};

export function ClashFile({ site, options, row, period }: Props) {
  const file = useQuery({ ...clashQuery(site.slug, options, row ?? "0"), enabled: row !== undefined });
  if (row === undefined || !period) return null;
  if (file.error) return <Failed error={file.error} retry={() => file.refetch()} />;
  if (!file.data) return null;
  const { clash, lanes } = file.data;
  return (
    <article
      aria-label="Clash"
      data-testid="clash"
      aria-busy={file.isPlaceholderData}
      className={`px-5 py-3 ${file.isPlaceholderData ? "opacity-60" : ""}`}
    >
      <h2 className="break-words text-xl leading-6">
        <Link
          to="/$site/query"
          params={{ site: site.slug }}
          search={{ query: clash.query_id }}
          className="hover:underline"
        >
          {clash.query}
        </Link>
      </h2>
      <Deciding
        site={site}
        subject={{ query: clash.query_id }}
        finding="clashes"
        instead={toSettle}
        name={`the clash over “${clash.query}”`}
        options={options}
      />
      <div className="mt-2 space-y-1 font-serif text-lead">
        <p>{clash.sentence}</p>
        <p>
          Proposed: <strong>{clash.resolution}</strong> – {clash.resolution_reason}. {path(clash.lead)} should lead:{" "}
          {clash.lead_reasons.join("; ")}.
        </p>
      </div>
      <div className="mt-3 border-rule border-t pt-2">
        <MeasureCards measures={file.data.compared} compared />
      </div>
      <Part title="Its days" method="clashes">
        <Picture name={`relay ${clash.query}`}>
          <Relay lanes={lanes} first={period.first} last={period.last} />
        </Picture>
      </Part>
      <Part title="Contenders">
        <Contenders slug={site.slug} clash={clash} lanes={lanes} />
      </Part>
      <Part id="settle" title="What to do">
        <Settle site={site} clash={clash} alike={file.data.alike} options={options} />
      </Part>
    </article>
  );
}

/** Settling a clash creates its move. */
function toSettle() {
  const part = document.getElementById("settle");
  part?.scrollIntoView({ block: "nearest" });
  part?.querySelector<HTMLElement>("select, button")?.focus();
}

function Contenders({ slug, clash, lanes }: { slug: string; clash: Schemas["ClashesRow"]; lanes: Schemas["Lane"][] }) {
  const stored = clash.contenders.map((one) => ({ ...one, lane: lanes.find((lane) => lane.page_id === one.page_id) }));
  const lines: [string, (one: (typeof stored)[number]) => string][] = [
    ["share of the query", (one) => share(one.share)],
    ["position", (one) => place(one.position)],
    ["clicks here", (one) => count(one.clicks)],
    ["all clicks", (one) => count(one.lane?.clicks_in_all)],
    ["days shown", (one) => count(one.days)],
    ["covers the query", (one) => one.fit ?? NONE],
    ["title", (one) => one.lane?.title ?? NONE],
    ["words", (one) => count(one.lane?.words)],
    ["conversions", (one) => count(one.lane?.conversions)],
    ["referring domains", (one) => count(one.lane?.links)],
  ];
  return (
    <div className="overflow-x-auto">
      <FigureTable
        rows={lines}
        keyOf={([name]) => name}
        columns={[
          {
            head: <span className="sr-only">measure</span>,
            width: "w-28",
            look: "text-faint text-xs",
            cell: ([name]) => name,
          },
          ...stored.map((one) => ({
            left: true as const,
            look: "break-words",
            cell: ([, answer]: (typeof lines)[number]) => answer(one),
            head: (
              <span className="break-words font-semibold text-ink">
                <Link to="/$site/pages" params={{ site: slug }} search={{ row: String(one.page_id) }}>
                  {shorten(
                    one.page,
                    stored.map((each) => each.page),
                  )}
                </Link>
                {one.page_id === clash.lead_id && <span className="text-spruce"> lead</span>}
                {one.lane?.listing && <span className="text-ochre"> listing</span>}
              </span>
            ),
          })),
        ]}
      />
    </div>
  );
}
