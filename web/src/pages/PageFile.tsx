// Everything about one page, in one scroll with a table of contents.
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { pageQuery } from "../api/ask";
import type { Schemas } from "../api/client";
import { useBegin } from "../drafts/useBegin";
import { useSite } from "../frame/useSite";
import { Deciding } from "../moves/Deciding";
import { OnPagePart } from "../onpage/OnPagePart";
import { EvidenceMark } from "../shared/EvidenceMark";
import { FigureTable } from "../shared/FigureTable";
import { count, day, NONE, path, place, share } from "../shared/format";
import { useKeys } from "../shared/keys";
import { MeasureCards } from "../shared/MeasureCards";
import { PageLink } from "../shared/PageLink";
import { Part, Parts } from "../shared/Part";
import { Picture } from "../shared/Picture";
import { Button, Failed, Notice } from "../shared/parts";
import type { Grade, ViewOptions } from "../state/view";
import { ChangeSteps } from "./ChangeSteps";
import { CrawlFacts, Links } from "./CrawlFacts";
import { DecidedSoFar } from "./DecidedSoFar";
import { Ledger } from "./Ledger";
import { ResultsPage } from "./ResultsPage";
import { WeeksLine } from "./WeeksLine";

type File = Schemas["PageFile"];
const ROWS_SHOWN = 10;
const SEARCH = ["clicks", "impressions", "ctr", "position"];

export function PageFile(props: {
  site: Schemas["SiteShown"];
  options: ViewOptions;
  row: string | undefined;
  longest: number;
}) {
  const { site, options, row } = props;
  const file = useQuery({ ...pageQuery(site.slug, options, row ?? "0"), enabled: row !== undefined });
  const begin = useBegin(site.slug);
  const draft = () => file.data && site.may_change && begin(null, file.data.page_id, options);
  useKeys({ d: draft });
  if (row === undefined) return null;
  if (file.error) return <Failed error={file.error} retry={() => file.refetch()} />;
  const answer = file.data;
  if (!answer) return <Notice title="Opening the page file">Loading its rows, weeks, clashes and crawl.</Notice>;
  return (
    <article
      aria-label="Page file"
      aria-busy={file.isPlaceholderData}
      data-testid="page-file"
      tabIndex={-1}
      className={`px-5 pb-3 [--evidence-top:1.625rem] ${file.isPlaceholderData ? "opacity-60" : ""}`}
    >
      <Contents answer={answer} />
      <h2 className="break-words text-xl leading-6">{answer.crawl?.title ?? path(answer.page)}</h2>
      <PageLink address={answer.page} />
      <Deciding
        site={props.site}
        subject={{ page: answer.page_id }}
        finding="pages"
        name={path(answer.page)}
        options={options}
        more={
          site.may_change &&
          answer.crawl && (
            <Button onClick={draft} title="Start a draft with the crawled text (d)">
              Start a draft
            </Button>
          )
        }
      />
      <div className="mt-2 space-y-1 font-serif text-lead">
        {answer.reasons.length > 0 ? (
          answer.reasons.map((reason) => <p key={reason}>{reason}</p>)
        ) : (
          <p>No opportunity beyond chance.</p>
        )}
      </div>
      <div className="mt-3">
        <MeasureCards
          measures={answer.compared.filter((one) => SEARCH.includes(one.name))}
          compared={answer.change !== null}
        />
      </div>
      <Parts>
        <AccountTable file={answer} longest={props.longest} />
        <Part id="queries" title="Its queries" method="evidence">
          <Queries slug={props.site.slug} rows={answer.rows} />
        </Part>
        {answer.change && (
          <Part id="why" title="Why clicks changed" method="why-clicks-changed">
            <Picture name={`why clicks changed ${path(answer.page)}`}>
              <ChangeSteps change={answer.change} />
            </Picture>
          </Part>
        )}
        <Part id="weeks" title="Its weeks" method="breaks">
          <Picture name={`weeks ${path(answer.page)}`}>
            <WeeksLine weeks={answer.weeks} breaks={answer.breaks} />
          </Picture>
          <Breaks file={answer} />
        </Part>
        {answer.clashes.length + answer.overlapping_pages.length > 0 && (
          <Part id="clashes" title="Clashes" method="clashes">
            <Clashes file={answer} />
          </Part>
        )}
        <Part id="visits" title="Visits" method="landing-pages">
          <Visits answer={answer} />
        </Part>
        <Part id="says" title="On the page">
          <CrawlFacts crawl={answer.crawl} />
        </Part>
        {answer.crawl && (
          <Part id="wording" title="Wording" method="missing-queries">
            <OnPagePart site={props.site} options={options} page={answer.page_id} />
          </Part>
        )}
        {answer.links && (
          <Part id="links" title="Links">
            <Links links={answer.links} />
            <p className="mt-1">
              <Link
                to="/$site/links"
                params={{ site: site.slug }}
                search={{ row: String(answer.page_id) }}
                className="link"
              >
                Links it needs, and pages that could link to it
              </Link>
            </p>
          </Part>
        )}
        {answer.decided.length > 0 && (
          <Part id="decided" title="Decisions">
            <DecidedSoFar slug={props.site.slug} decided={answer.decided} />
          </Part>
        )}
        {answer.results.length > 0 && (
          <Part id="results" title="Its SERP">
            <ResultsPage results={answer.results} words={answer.results_sentence} />
          </Part>
        )}
      </Parts>
    </article>
  );
}

/** The parts of the file, as links. */
function Contents({ answer }: { answer: File }) {
  const parts: [string, string, boolean][] = [
    ["queries", "Queries", true],
    ["why", "Why", answer.change !== null],
    ["weeks", "Weeks", true],
    ["clashes", "Clashes", answer.clashes.length + answer.overlapping_pages.length > 0],
    ["visits", "Visits", true],
    ["says", "Text", true],
    ["wording", "On the page", answer.crawl !== null],
    ["links", "Links", answer.links !== null],
    ["decided", "Decided", answer.decided.length > 0],
    ["results", "SERPs", answer.results.length > 0],
  ];
  const calm = matchMedia("(prefers-reduced-motion: reduce)").matches;
  return (
    <nav
      aria-label="Parts of the file"
      className="sticky top-0 z-10 -mx-5 mb-2 flex h-[1.625rem] gap-x-2 overflow-x-auto overflow-y-hidden border-rule border-b bg-paper px-5 text-xs"
    >
      {parts
        .filter(([, , there]) => there)
        .map(([id, name]) => (
          <Button
            key={id}
            plain
            className="min-h-6"
            onClick={() => document.getElementById(id)?.scrollIntoView({ behavior: calm ? "auto" : "smooth" })}
          >
            {name}
          </Button>
        ))}
    </nav>
  );
}

const LEVERS = [
  ["snippet", "lost clicks: by a better snippet"],
  ["unite", "lost clicks: by resolving clashes"],
  ["rank", "potential clicks: by a better position"],
] as const;

function AccountTable({ file, longest }: { file: File; longest: number }) {
  const { account, months } = file;
  const currency = useSite().site?.currency;
  const lines: [string, string, string, Grade?][] = [
    ["earned now", count(months.earned), ""],
    ...LEVERS.map(([name, words]): [string, string, string] => [
      words,
      count(months.expected[name]),
      count(months.at_least[name]),
    ]),
  ];
  // The evidence grades lost clicks; the certainty of a better position is unknown.
  const lost = lines[1];
  if (lost) lost[3] = account.evidence;
  lines.push(["opportunity", count(months.expected.together), count(months.at_least.together)]);
  if (account.worth != null)
    lines.push([
      `worth${currency ? ` in ${currency}` : ""}, by ${account.worth_basis}`,
      count(account.worth),
      count(account.gain_worth),
    ]);
  return (
    <div className="mt-3 border-rule border-t pt-2">
      <Ledger row={account} longest={Math.max(account.clicks + account.opportunity, longest / 8)} tall />
      <FigureTable
        className="mt-2"
        rows={lines}
        keyOf={([name]) => name}
        columns={[
          {
            head: "clicks a month",
            cell: ([name, , , grade]) => (
              <>
                {name} {grade && <EvidenceMark grade={grade} />}
              </>
            ),
          },
          { head: "expected", cell: ([, expected]) => expected },
          { head: "at least", cell: ([, , least]) => least },
        ]}
      />
    </div>
  );
}

function Queries({ slug, rows }: { slug: string; rows: File["rows"] }) {
  return (
    <FigureTable
      className="text-sm"
      first={ROWS_SHOWN}
      rows={rows}
      keyOf={(row) => row.query_id}
      note="Lost clicks are a month; below them the potential clicks of a better position. Below the clicks of the period: expected clicks."
      columns={[
        {
          head: "query",
          width: "w-auto",
          look: "leading-tight",
          title: (row) => row.query,
          cell: (row) => (
            <Link
              to="/$site/query"
              params={{ site: slug }}
              search={{ query: row.query_id }}
              className="hover:underline"
            >
              {row.query}
            </Link>
          ),
        },
        {
          head: "lost",
          width: "w-12",
          cell: (row) =>
            row.branded ? (
              "brand"
            ) : row.snippet === null ? (
              NONE
            ) : (
              <>
                {count(row.lost_month)}
                <div
                  className="whitespace-nowrap text-faint text-xs"
                  title="potential clicks a month at a better position"
                >
                  {row.potential_month >= 0.5 && `+ ${count(row.potential_month)}`}
                </div>
              </>
            ),
        },
        {
          head: "clicks",
          width: "w-12",
          cell: (row) => (
            <>
              {count(row.clicks)}
              <div className="text-faint text-xs" title="expected clicks: what its positions usually bring">
                {count(row.expected_clicks)}
              </div>
            </>
          ),
        },
        { head: "impr.", width: "w-14", cell: (row) => count(row.impressions) },
        { head: "CTR", width: "w-14", cell: (row) => share(row.ctr) },
        { head: "pos.", width: "w-10", cell: (row) => place(row.position) },
        {
          head: "fit",
          width: "w-11",
          look: (row) => `text-xs ${row.fit === "off" ? "text-rust" : "text-faint"}`,
          title: (row) => row.lacking?.join(", "),
          cell: (row) => row.fit ?? NONE,
        },
      ]}
    />
  );
}

function Breaks({ file }: { file: File }) {
  if (file.breaks.length + file.out.length === 0)
    return <p className="text-faint text-xs">No break beyond what all pages share.</p>;
  return (
    <ul className="text-xs">
      {file.breaks.map((one) => (
        <li key={`${one.week}${one.measure}`}>
          <span className={one.size < 0 ? "text-rust" : "text-spruce"}>
            {one.measure} {one.size < 0 ? "fell" : "rose"} by {share(Math.abs(one.size))}
          </span>{" "}
          in the week of {day(one.week)}, from {count(one.before)} to {count(one.after)} a week, {one.evidence}
          {one.event && `; near “${one.event}”`}
          {!one.season_known && "; less than a year of data before it, so it may be seasonal"}
        </li>
      ))}
      {file.out.map((one) => (
        <li key={one.since}>
          No impressions from the week of {day(one.since)} {one.back ? `until that of ${day(one.back)}` : "to the end"}
        </li>
      ))}
    </ul>
  );
}

function Clashes({ file }: { file: File }) {
  return (
    <ul className="space-y-2">
      {file.clashes.map((clash) => (
        <li key={clash.query_id}>
          <span className="font-medium">{clash.query}</span>{" "}
          <span className="text-faint">
            {clash.kind},{" "}
            {clash.loss_month >= 0.5 ? `lost clicks a month: ${count(clash.loss_month)}` : "next to nothing lost"}
          </span>
          <p className="text-xs">{clash.sentence}</p>
          <p className="text-xs">
            Proposed: {clash.resolution}, led by {path(clash.lead)} – {clash.lead_reasons.join("; ")}.
          </p>
        </li>
      ))}
      {file.overlapping_pages.map((fold) => (
        <li key={`${fold.page_id}-${fold.other_id}`}>
          <span className="font-medium">{path(fold.page_id === file.page_id ? fold.other : fold.page)}</span>
          <p className="text-xs">{fold.sentence}</p>
        </li>
      ))}
    </ul>
  );
}

function Visits({ answer }: { answer: File }) {
  const { account, lacking } = answer;
  if (account.sessions == null)
    return <p className="text-faint text-xs">{lacking.join(" ") || "No visit data. Load them in Data."}</p>;
  return (
    <>
      <MeasureCards
        measures={answer.compared.filter((one) => !SEARCH.includes(one.name))}
        compared={account.sessions_change !== null}
      />
      <p className="mt-1 text-faint text-xs">Organic visits only. {lacking.join(" ")}</p>
    </>
  );
}
