// Links: pages that need links, from where, in which sentence, and whether they were set.
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { type Answer, linksQuery, useMarks, usePrefetch } from "../api/ask";
import type { Schemas } from "../api/client";
import { Figure, Named } from "../listing/cells";
import { FindingPlace, type PlaceProps } from "../listing/FindingPlace";
import type { Marked } from "../listing/marked";
import { firstOpen } from "../listing/needs";
import { DecideMarked, MarkedBar } from "../moves/DecideMarked";
import { MarkWord } from "../moves/MarkWord";
import { Chips } from "../shared/Chips";
import { download } from "../shared/export";
import { FigureTable } from "../shared/FigureTable";
import { count, path, share } from "../shared/format";
import { Button, Notice } from "../shared/parts";
import { type Action, type Fault, findingsOf, type Mention, NO_FILTERS, optionsOf } from "../state/view";
import { AcceptedLinkFile, STATE_LOOKS } from "./AcceptedLinkFile";
import { BrokenLinkFile } from "./BrokenLinkFile";
import { LinksFile } from "./LinksFile";
import { MentionFile } from "./MentionFile";
import { PhraseForm } from "./PhraseForm";
import { Refuse } from "./Refuse";
import { SuggestionFile } from "./SuggestionFile";
import { useLinking } from "./useLinking";

const WANTING: Action[] = ["needs links", "fix"];
const OPEN_MENTIONS: Mention[] = ["not linked"];

export function LinksPlace(props: PlaceProps) {
  const finding = props.search.finding ?? firstOpen(props.site, findingsOf("links"));
  if (finding === "suggested-links") return <Plan {...props} />;
  if (finding === "accepted-links") return <Work {...props} />;
  if (finding === "mentions") return <Mentions {...props} />;
  if (finding === "broken-links") return <Faults {...props} />;
  if (finding === "needs-links") return <Needs {...props} />;
  return <FindingPlace {...props} finding={finding} />;
}

/** Shared by the lists of this place, given how much data they have (0: none). */
function useRest({ site, change }: PlaceProps) {
  const navigate = useNavigate();
  const rest = {
    least: 36,
    rowHeight: 42,
    open: (row: string) =>
      navigate({ to: "/$site/pages", params: { site: site.slug }, search: { row: row.split("-")[0] ?? "" } }),
    near: () => {},
    empty: (
      <Notice
        title="Nothing to show here"
        action={<Button onClick={() => change(NO_FILTERS)}>Remove the filters</Button>}
      >
        No row fits these filters.
      </Notice>
    ),
    waiting: "Link authority is being calculated.",
  };
  return rest;
}

function Needs(props: PlaceProps) {
  const { site, search, change } = props;
  const options = optionsOf(search);
  const rest = useRest(props);
  const marks = useMarks(site.slug);
  const prefetch = usePrefetch();
  const shown = { ...options, action: search.action ?? WANTING };
  return (
    <FindingPlace
      {...props}
      finding="needs-links"
      options={shown}
      onMarked={(marked) => (
        <DecideMarked
          site={site}
          marked={marked}
          subjectOf={(row) => ({ page: Number(row) })}
          finding="needs-links"
          options={options}
          words={["page", "pages"]}
        />
      )}
      below={(list) => (
        <>
          <Chips
            label="action"
            known={["needs links", "fix", "can link out", "fine"]}
            chosen={shown.action}
            count={(one) => list && (list?.by_action[one] ?? 0)}
            choose={(action) => change({ action: action as Action[] })}
          />
          <Together list={list} change={change} />
        </>
      )}
      look={() => ({
        ...rest,
        near: (row) => prefetch(linksQuery(site.slug, options, row)),
        cells: {
          page: (row) => (
            <Named
              name={path(row.page)}
              title={row.page}
              mark={<MarkWord mark={marks.of({ page: row.page_id })} />}
              below={row.problems.join(", ")}
            />
          ),
          action: (row) => (
            <span className={row.action === "needs links" ? "text-rust" : row.action === "fix" ? "text-ochre" : ""}>
              {row.action}
            </span>
          ),
        },
        widths: { action: "5rem", links_in: "3rem", links_in_body: "3.2rem", links_out: "3rem", depth: "2.8rem" },
      })}
      evidence={(row, list) => (
        <LinksFile
          site={site}
          options={options}
          row={row}
          squares={list?.squares ?? []}
          pick={(page) => change({ row: String(page) })}
        />
      )}
    />
  );
}

const GROUPED = { sections: "section", types: "page type", topics: "topic" } as const;
type Grouped = keyof typeof GROUPED;

/** The same by section or type: where authority is, and where the opportunity. */
function Together({ list, change }: { list: Answer<"needs-links"> | undefined; change: PlaceProps["change"] }) {
  const [by, setBy] = useState<Grouped | null>(null);
  if (!list || list.sections.length === 0) return null;
  const narrow = (name: string) => change(by === "types" ? { page_type: [name] } : { section: name });
  const known = (Object.keys(GROUPED) as Grouped[]).filter((one) => list[one].length > 0);
  return (
    <div className="mt-1 text-xs">
      {known.map((one) => (
        <Button
          key={one}
          plain
          className="mr-3 min-h-6"
          aria-expanded={by === one}
          onClick={() => setBy(by === one ? null : one)}
        >
          by {GROUPED[one]}
        </Button>
      ))}
      {by && (
        <FigureTable
          className="max-w-xl"
          rows={list[by]}
          first={10}
          keyOf={(one) => one.name}
          columns={[
            {
              head: GROUPED[by],
              cell: (one) =>
                by === "topics" ? (
                  one.name
                ) : (
                  <Button plain onClick={() => narrow(one.name)}>
                    {one.name}
                  </Button>
                ),
            },
            { head: "pages", cell: (one) => count(one.pages) },
            { head: "need links", cell: (one) => count(one.wants_links) },
            { head: "authority", cell: (one) => share(one.authority_share) },
            { head: "opportunity", cell: (one) => share(one.opportunity_share) },
          ]}
        />
      )}
    </div>
  );
}

function Plan(props: PlaceProps) {
  const { site, search, change } = props;
  const options = optionsOf(search);
  const rest = useRest(props);
  return (
    <FindingPlace
      {...props}
      finding="suggested-links"
      options={options}
      onMarked={(marked) => <MarkedLinks site={site} marked={marked} options={options} />}
      below={() =>
        search.page && (
          <p className="mt-1 text-xs">
            Links to {search.page} alone.{" "}
            <Button plain onClick={() => change({ page: undefined })}>
              Show all pages that need links
            </Button>
          </p>
        )
      }
      look={() => ({
        ...rest,
        cells: {
          from: (row) => <Named name={path(row.from)} title={row.to} mark={null} below={`→ ${path(row.to)}`} />,
          choice: (row) => (
            <span
              className={
                row.choice === "accepted" ? "text-spruce" : row.choice === "refused" ? "text-rust" : "text-faint"
              }
            >
              {row.choice}
            </span>
          ),
        },
        widths: {
          anchor: "8rem",
          similarity: "3.4rem",
          authority_passed: "3.6rem",
          authority_after: "3.4rem",
          choice: "3.8rem",
        },
      })}
      evidence={(_, __, row) => <SuggestionFile site={site} row={row} onPage={(page) => change({ page })} />}
    />
  );
}

type MarkedProps = { site: Schemas["SiteShown"]; marked: Marked; options: ReturnType<typeof optionsOf> };

/** Marked suggestions, accepted or dismissed together. Their texts are fetched again, because the list has only those on
 * screen. */
function MarkedLinks({ site, marked }: MarkedProps) {
  const decide = useLinking(site.slug);
  const [refusing, setRefusing] = useState(false);
  const clear = () => marked.set(new Set());
  const links = [...marked.keys].map((key) => {
    const [from_id = 0, to_id = 0] = key.split("-").map(Number);
    return { from_id, to_id, from: "", to: "", anchor: "", sentence: null, choice: "open" as const };
  });
  return (
    <MarkedBar name={`${count(links.length)} marked ${links.length === 1 ? "link" : "links"}`} clear={clear}>
      <Button plain className="min-h-6" onClick={() => decide(links, "accepted").then((done) => done && clear())}>
        Take them
      </Button>
      <Button plain className="min-h-6" onClick={() => setRefusing(true)}>
        Refuse them
      </Button>
      {refusing && <Refuse site={site} links={links} close={() => setRefusing(false)} done={clear} />}
    </MarkedBar>
  );
}

function Work(props: PlaceProps) {
  const { site, search } = props;
  const options = optionsOf(search);
  const rest = useRest(props);
  return (
    <FindingPlace
      {...props}
      finding="accepted-links"
      options={options}
      below={(list) =>
        (list?.total ?? 0) > 0 && (
          <p className="mt-1 flex gap-x-4 text-xs">
            <Button plain onClick={() => download(`/api/sites/${site.slug}/accepted-links/document`)}>
              As a document (DOCX)
            </Button>
          </p>
        )
      }
      look={() => ({
        ...rest,
        cells: {
          from: (row) => <Named name={path(row.from)} title={row.to} mark={null} below={`→ ${path(row.to)}`} />,
          state: (row) => <span className={STATE_LOOKS[row.state]}>{row.state}</span>,
        },
        widths: { anchor: "10rem", state: "6.4rem", accepted_on: "6.6rem" },
        open: () => {},
        empty: (
          <Notice title="No accepted links yet">
            Accept suggestions under “Suggested links”. They appear here by page to edit, and the next crawl checks
            whether they are set.
          </Notice>
        ),
      })}
      evidence={(_, list, row) => <AcceptedLinkFile site={site} rows={list?.rows ?? []} chosen={row} />}
    />
  );
}

function Mentions(props: PlaceProps) {
  const { site, search, change } = props;
  const options = optionsOf(search);
  const rest = useRest(props);
  const kinds = search.mention ?? (search.phrase ? [] : OPEN_MENTIONS);
  return (
    <FindingPlace
      {...props}
      finding="mentions"
      options={{ ...options, mention: kinds }}
      below={(list) => (
        <>
          <Chips
            label="mention"
            known={["not linked", "linked", "heading only", "in another link", "no internal mention"]}
            chosen={kinds}
            count={(one) => list && (list?.by_kind[one] ?? 0)}
            choose={(mention) => change({ mention: mention as Mention[] })}
          />
          <PhraseForm search={search} change={change} />
        </>
      )}
      look={() => ({
        ...rest,
        cells: {
          phrase: (row) => <Named name={row.phrase} title={row.page} mark={null} below={path(row.page)} />,
          times: (row) => <Figure value={row.times} />,
        },
        widths: { target: "10rem", kind: "6.4rem", times: "3rem" },
      })}
      evidence={(_, __, row) => <MentionFile site={site} row={row} />}
    />
  );
}

function Faults(props: PlaceProps) {
  const { site, search, change } = props;
  const options = optionsOf(search);
  const rest = useRest(props);
  return (
    <FindingPlace
      {...props}
      finding="broken-links"
      options={options}
      below={(list) => (
        <Chips
          label="fault"
          known={Object.keys(list?.by_fault ?? {})}
          chosen={search.fault ?? []}
          count={(one) => list && (list?.by_fault[one] ?? 0)}
          choose={(fault) => change({ fault: (fault.length ? fault : undefined) as Fault[] | undefined })}
        />
      )}
      look={() => ({
        ...rest,
        cells: {
          from: (row) => <Named name={path(row.from)} title={row.to} mark={null} below={`→ ${path(row.to)}`} />,
          fault: (row) => <span className={row.fault.includes("gone") ? "text-rust" : ""}>{row.fault}</span>,
        },
        widths: { anchor: "8rem", fault: "10rem", pages: "3.4rem" },
      })}
      evidence={(_, __, row) => <BrokenLinkFile site={site} options={options} row={row} />}
    />
  );
}
