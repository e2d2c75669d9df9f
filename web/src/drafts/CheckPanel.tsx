// What the text covers and lacks compared with competing pages, and writing problems; a click shows the passage.
import type { Schemas } from "../api/client";
import { problemWords } from "../onpage/problems";
import { FigureTable } from "../shared/FigureTable";
import { count, many, place, share } from "../shared/format";
import { Part } from "../shared/Part";
import { Button, Notice } from "../shared/parts";
import type { useCheck } from "./useCheck";

type Props = {
  check: ReturnType<typeof useCheck>["data"];
  coverage: string; // how coverage goes with rank on this site, in words
  show: (quote: string) => void;
  help: (term: string) => void;
};
type Term = Schemas["TermChecked"];

export function CheckPanel({ check, coverage, show, help }: Props) {
  if (!check) return <Notice title="Reading the draft">Comparing it with competing pages.</Notice>;
  const missing = check.terms.filter((one) => one.state === "missing");
  const often = check.terms.filter((one) => one.state === "too often");
  const said = check.terms.filter((one) => one.state === "used");
  const range = (bounds: number[] | null, unit: string) =>
    bounds ? `; half of the competing pages: ${count(bounds[0])} to ${count(bounds.at(-1))}${unit}` : "";
  return (
    <div data-testid="draft-check">
      <p className="font-serif text-lead">{check.sentence}</p>
      <p className="mt-1 text-faint">{coverage}</p>
      {check.terms.length > 0 && (
        <Part title={`Terms, ${said.length + often.length} of ${check.terms.length} used`} method="drafts">
          <Terms title="Not used yet" terms={missing} help={help} />
          <Terms title="Used too often" terms={often} />
          <Terms title="Used" terms={said} />
        </Part>
      )}
      {check.words > 0 && <Faults faults={check.faults} show={show} />}
      <Part title="Readability">
        <p>
          Reading ease {place(check.reading_ease)} (0 is hard, 100 easy){range(check.ease, "")}. {count(check.words)}{" "}
          words
          {range(check.length, "")}.
        </p>
        {check.needs_short_answer && (
          <p>
            {check.short_answer
              ? `The short answer has ${count(check.short_answer)} characters.`
              : "Add a short answer: a featured snippet can be won here."}
          </p>
        )}
        {check.problems.length > 0 && <p>Title and description: {check.problems.map(problemWords).join(", ")}.</p>}
        {check.coverage != null && (
          <p className="text-faint">
            Term coverage (essential terms count three, common two, optional one): {share(check.coverage)}.
          </p>
        )}
      </Part>
    </div>
  );
}

function Terms({ title, terms, help }: { title: string; terms: Term[]; help?: (term: string) => void }) {
  if (terms.length === 0) return null;
  return (
    <div className="mb-2">
      <FigureTable
        rows={terms}
        first={12}
        keyOf={(one) => one.text}
        columns={[
          {
            head: title,
            cell: (one) =>
              help ? (
                <Button plain onClick={() => help(one.text)} title="Ask for a paragraph on it" className="min-h-6">
                  {one.text}
                </Button>
              ) : (
                one.text
              ),
          },
          { head: "tier", cell: (one) => one.tier, left: true },
          { head: "in your text", cell: (one) => count(one.times_used) },
          { head: "competing pages", cell: (one) => `${place(one.least)} to ${place(one.most)}` },
        ]}
      />
    </div>
  );
}

type FaultsProps = { faults: Schemas["FaultShown"][]; show: (quote: string) => void };

function Faults({ faults, show }: FaultsProps) {
  return (
    <Part title={faults.length ? `Show ${many(faults.length, "problem")}` : "No problems found"}>
      <ul className="space-y-1">
        {faults.map((one, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: two places may be alike
          <li key={at} className="flex gap-2">
            <span aria-hidden="true" className={`fault-sign fault-${one.kind.replaceAll(" ", "-")}`} />
            <span className="min-w-0">
              {one.words}{" "}
              {one.quote && (
                <Button
                  plain
                  onClick={() => show(one.quote)}
                  className="!inline min-h-6 whitespace-normal text-left leading-6"
                >
                  {one.quote.length > 60 ? `${one.quote.slice(0, 60)}…` : one.quote}
                </Button>
              )}
            </span>
          </li>
        ))}
      </ul>
    </Part>
  );
}
