// Above the list: what it says in one sentence, and what it leaves out.
import type { Schemas } from "../api/client";
import { count } from "../shared/format";
import { Button } from "../shared/parts";
import { type Lens, type QueriesSearch, SURE } from "../state/search";

type Props = {
  list: Schemas["Rows"] | undefined;
  search: QueriesSearch;
  change: (part: Partial<QueriesSearch>) => void;
};

const CLAIM: Record<Lens, [string, string]> = {
  "low-ctr": ["row is clicked less than its positions explain", "rows are clicked less than their positions explain"],
  "striking-distance": ["row would gain by a better place", "rows would gain by a better place"],
  outperformers: [
    "row is clicked more than its positions explain",
    "rows are clicked more than their positions explain",
  ],
  "off-fit": [
    "row within reach stands on a page that says it loosely or not at all",
    "rows within reach stand on pages that say them loosely or not at all",
  ],
};
const STANDS: Record<Lens, string> = {
  "low-ctr": "below the curve",
  "striking-distance": "at positions 4 to 20",
  outperformers: "above the curve and not yet first",
  "off-fit": "at positions 4 to 20 on a page that says the query loosely or not at all",
};

export function ListHead({ list, search, change }: Props) {
  const lens = search.lens ?? "low-ctr";
  const thinShown = (search.evidence ?? SURE).includes("thin");
  return (
    <div className="border-rule border-b px-4 pt-2.5 pb-2">
      <p className="min-h-9 text-faint" aria-live="polite">
        {list && <Summary list={list} lens={lens} thinShown={thinShown} change={change} />}
      </p>
    </div>
  );
}

type SummaryProps = { list: Schemas["Rows"]; lens: Lens; thinShown: boolean; change: Props["change"] };

/** A thin row is never called a finding, so the sentence counts them apart. */
function Summary({ list, lens, thinShown, change }: SummaryProps) {
  const strong = (value: number) => <strong className="font-semibold text-ink">{count(value)}</strong>;
  const looked = `${count(list.tested)} were looked at`;
  if (thinShown) {
    return (
      <>
        {strong(list.total)} rows stand {STANDS[lens]}; only {strong(list.in_lens.firm + list.in_lens.likely)} of the
        lens are more than thin, {looked}.{" "}
        <Button plain onClick={() => change({ evidence: undefined })}>
          Hide thin rows
        </Button>
      </>
    );
  }
  return (
    <>
      {strong(list.total)} {CLAIM[lens][list.total === 1 ? 0 : 1]}
      {list.total > 0 && <>, {strong(list.at_stake_month)} clicks a month at stake</>}; {looked}.{" "}
      {list.in_lens.thin > 0 && (
        <>
          {count(list.in_lens.thin)} more are too thin to call.{" "}
          <Button plain onClick={() => change({ evidence: ["firm", "likely", "thin"] })}>
            Show them
          </Button>
        </>
      )}
    </>
  );
}
