// Topics: what people search for around the site, when, the site's share, and what to write.
import { useNavigate } from "@tanstack/react-router";
import type { Row } from "../api/ask";
import { useMarks } from "../api/ask";
import type { Schemas } from "../api/client";
import { Figure, Named } from "../listing/cells";
import { FindingPlace, type PlaceProps } from "../listing/FindingPlace";
import type { Marked } from "../listing/marked";
import { DecideMarked, MarkedBar } from "../moves/DecideMarked";
import { MarkWord } from "../moves/MarkWord";
import { count, day, many, NONE, path } from "../shared/format";
import { Button, Notice } from "../shared/parts";
import { NO_FILTERS, optionsOf } from "../state/view";
import { ContentGapFile } from "./ContentGapFile";
import { Months } from "./Months";
import { TopicFile } from "./TopicFile";
import { useTopics } from "./useTopics";

export function TopicsPlace(props: PlaceProps) {
  const finding = props.search.finding ?? "topics";
  if (finding === "content-gaps") return <ToWrite {...props} />;
  if (finding === "topic-queries") return <Queries {...props} />;
  if (finding === "topics") return <Board {...props} />;
  return <FindingPlace {...props} finding={finding} />;
}

function useRest({ change }: PlaceProps) {
  return {
    rowHeight: 42,
    open: () => {},
    near: () => {},
    empty: (
      <Notice
        title="Nothing to show here"
        action={<Button onClick={() => change(NO_FILTERS)}>Remove the filters</Button>}
      >
        No topic fits these filters.
      </Notice>
    ),
    waiting: "By SERPs, ranking pages and words.",
  };
}

function Board(props: PlaceProps) {
  const { site, search } = props;
  const options = optionsOf(search);
  const rest = useRest(props);
  return (
    <FindingPlace
      {...props}
      finding="topics"
      options={options}
      look={() => ({
        ...rest,
        least: 42,
        cells: {
          topic: (row) => <Named name={row.topic} title={row.topic} mark={null} below={row.intent ?? ""} />,
          searches: (row) => <Figure value={row.searches} />,
          months: (row) => <Months months={row.months} peak={row.peak_month} />,
          ready_by: (row) => (row.ready_by ? day(row.ready_by).replace("1 ", "") : NONE),
        },
        heads: { months: "January to December" },
        widths: { months: "8.8rem", ready_by: "4.6rem", searches: "3.8rem", queries: "3.4rem", pages: "3rem" },
      })}
      evidence={(_, list, row) => <TopicFile site={site} options={options} row={row} all={list?.rows ?? []} />}
    />
  );
}

function ToWrite(props: PlaceProps) {
  const { site, search } = props;
  const options = optionsOf(search);
  const rest = useRest(props);
  const marks = useMarks(site.slug);
  return (
    <FindingPlace
      {...props}
      finding="content-gaps"
      options={options}
      onMarked={(marked) => (
        <DecideMarked
          site={site}
          marked={marked}
          subjectOf={(row) => ({ page: null, query: Number(row) })}
          finding="content-gaps"
          options={options}
          words={["content gap", "content gaps"]}
        />
      )}
      look={() => ({
        ...rest,
        least: 34,
        cells: {
          query: (row) => (
            <Named
              name={row.query}
              title={row.reason}
              mark={<MarkWord mark={marks.of({ page: null, query: row.query_id })} />}
              below={row.topic ?? ""}
            />
          ),
          searches: (row) => <Figure value={row.searches} />,
        },
        widths: { intent: "6.4rem", ready_by: "6.2rem", searches: "4.2rem" },
      })}
      evidence={(_, __, row) => <ContentGapFile site={site} options={options} row={row} />}
    />
  );
}

function Queries(props: PlaceProps) {
  const { site, search, change } = props;
  const options = optionsOf(search);
  const rest = useRest(props);
  const navigate = useNavigate();
  return (
    <FindingPlace
      {...props}
      finding="topic-queries"
      options={options}
      onMarked={(marked) => <SplitTopic site={site} marked={marked} done={() => change({ topic: undefined })} />}
      look={() => ({
        ...rest,
        least: 40,
        open: (row) =>
          navigate({ to: "/$site/query", params: { site: site.slug }, search: { query: Number(row) } as never }),
        cells: {
          query: (row) => <Named name={row.query} title={row.query} mark={null} below={row.topic} />,
        },
        widths: { page: "11rem", searches: "4.2rem" },
      })}
      evidence={(_, __, row) => <QueryFile row={row} />}
    />
  );
}

function QueryFile({ row }: { row: Row<"topic-queries"> | undefined }) {
  if (!row) return null;
  return (
    <article aria-label="Evidence" className="px-5 py-3" data-testid="topic-query-file">
      <h2 className="text-xl leading-6">{row.query}</h2>
      <p className="text-faint">of the topic “{row.topic}”</p>
      <p className="mt-2">
        {row.searches == null ? "Search volume unknown." : `Searched ${count(row.searches)} times a month.`}{" "}
        {row.page
          ? `Ours that is shown most is ${path(row.page)}, which covers it ${row.fit ?? "in a way not known"}.`
          : "None of your pages ranks for it."}
      </p>
      <p className="mt-1 text-faint">Select queries with the space bar to make them a topic. Enter opens the query.</p>
    </article>
  );
}

function SplitTopic({ site, marked, done }: { site: Schemas["SiteShown"]; marked: Marked; done: () => void }) {
  const edit = useTopics(site.slug);
  const queries = [...marked.keys].map(Number);
  const words = many(queries.length, "query", "queries");
  const clear = () => marked.set(new Set());
  async function split() {
    if (await edit("split", queries, `${words} are a separate topic now.`)) {
      clear();
      done();
    }
  }
  return (
    <MarkedBar name={`${words} marked`} clear={clear}>
      {site.may_change && (
        <Button plain className="min-h-6" onClick={split}>
          Make a topic of these
        </Button>
      )}
    </MarkedBar>
  );
}
