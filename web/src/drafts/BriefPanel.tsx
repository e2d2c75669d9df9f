// The content brief: queries, questions, outline, figures of competing pages, links to set.
import type { Schemas } from "../api/client";
import { FigureTable } from "../shared/FigureTable";
import { count, day, path, place } from "../shared/format";
import { Part } from "../shared/Part";
import { Button, Notice } from "../shared/parts";

type Props = { brief: Schemas["BriefShown"] | undefined; may: boolean; append: (html: string) => void };

export const asHeadings = (lines: string[]) =>
  lines.map((one) => `<h2>${one.replaceAll("&", "&amp;").replaceAll("<", "&lt;")}</h2><p></p>`).join("");

export function BriefPanel({ brief, may, append }: Props) {
  if (!brief) return <Notice title="Writing the brief">Queries, terms, outline.</Notice>;
  return (
    <div data-testid="draft-brief">
      <p className="font-serif text-lead">
        {brief.searches != null ? `Searched ${count(brief.searches)} times a month. ` : ""}
        {brief.topic ? `Of the topic “${brief.topic}”. ` : ""}
        {brief.ready_by ? `Ready by ${day(brief.ready_by)}.` : ""}
      </p>
      <Part
        title="Outline"
        aside={
          may &&
          brief.outline.length > 0 && (
            <Button plain onClick={() => append(asHeadings(brief.outline))}>
              Add as headings
            </Button>
          )
        }
      >
        {brief.outline.length ? (
          <ol className="list-decimal pl-5">
            {brief.outline.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ol>
        ) : (
          <p className="text-faint">No question is known, and no competing page was fetched.</p>
        )}
      </Part>
      {brief.questions.length > 0 && (
        <Part title="Questions">
          <ul>
            {brief.questions.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </Part>
      )}
      {brief.queries.length > 0 && (
        <Part title="Related queries">
          <FigureTable
            rows={brief.queries}
            first={8}
            keyOf={(one) => one.query}
            columns={[
              { head: "query", cell: (one) => one.query },
              { head: "searches a month", cell: (one) => count(one.searches) },
            ]}
          />
        </Part>
      )}
      {brief.above.length > 0 && (
        <Part title="What competing pages have">
          <FigureTable
            rows={brief.above}
            keyOf={(one) => one.name}
            columns={[
              { head: "measure", cell: (one) => one.name },
              { head: "middle", cell: (one) => place(one.middle) },
              { head: "half of them", cell: (one) => `${place(one.low)} to ${place(one.high)}` },
            ]}
          />
        </Part>
      )}
      {brief.links.length > 0 && (
        <Part title="Suggested links to it">
          <ul>
            {brief.links.map((one) => (
              <li key={one.page}>
                {path(one.page)}: “{one.anchor}”
              </li>
            ))}
          </ul>
        </Part>
      )}
      <p className="mt-3 text-faint">Link prospects are unknown: no table of links to competing pages is loaded.</p>
    </div>
  );
}
