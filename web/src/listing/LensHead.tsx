// Above a finding's rows: its result in one sentence, and what it leaves out.
import type { ReactNode } from "react";
import type { Answer } from "../api/ask";
import { CATALOG } from "../api/catalog.generated";
import { count } from "../shared/format";
import { Button } from "../shared/parts";
import { Views } from "../shared/Views";
import { GRADES, isSure, LISTED, type Listed, type ListSearch, SURE } from "../state/view";

type Props = {
  list: (Answer<"low-ctr"> & { lacking: string[] }) | undefined;
  search: ListSearch;
  change: (part: Partial<ListSearch>) => void;
  possible: boolean; // no row has evidence, so possible ones are listed
  method: ReactNode;
};

/** The names of a listed item, singular and plural. */
export const NOUNS: Record<Listed, [string, string]> = {
  row: ["row", "rows"],
  query: ["query", "queries"],
  page: ["page", "pages"],
};

const strong = (value: number) => <strong className="font-semibold text-ink">{count(value)}</strong>;

/** The finding's measure: what its rows lose at their position, or could gain. */
function OwnPart({ list, ofLost }: { list: NonNullable<Props["list"]>; ofLost: boolean }) {
  if (ofLost) return <>, {strong(list.lost_month)} lost clicks a month</>;
  return <>, {strong(list.potential_month)} potential clicks a month at better positions</>;
}

const LISTABLE = Object.keys(LISTED) as Listed[];
const viewsOf = (listable: Listed[]) =>
  Object.fromEntries(listable.map((by) => [by, LISTED[by]])) as Record<Listed, string>;

/** What is only possible is never called a finding, so the sentence counts it separately. */
export function LensHead({ list, search, change, possible, method }: Props) {
  const declared = CATALOG[search.finding ?? "low-ctr"];
  const moreShown = (search.evidence ?? SURE).some((grade) => !isSure(grade));
  const shown = (moreShown ? list?.sure : list?.total) ?? 0;
  const claim = declared.claims[shown === 1 ? 0 : 1];
  const nouns = NOUNS[list?.by ?? "row"];
  const inLens: Partial<Record<string, number>> = list?.in_lens ?? {};
  const more = (inLens.possible ?? 0) + (inLens["too little data"] ?? 0);
  return (
    <div className="border-rule border-b px-4 pt-2.5 pb-2">
      <p className="min-h-9 text-faint" aria-live="polite">
        {list && (
          <>
            {strong(possible ? 0 : shown)} {claim.replace(/^rows?/, nouns[shown === 1 ? 0 : 1])}
            {list.total > 0 && !possible && !moreShown && (
              <OwnPart list={list} ofLost={declared.order === "lost_month"} />
            )}
            ; {count(list.tested)} {list.tested === 1 ? `${nouns[0]} was` : `${nouns[1]} were`} tested.{" "}
            {possible ? (
              <>
                {inLens.possible
                  ? `${count(inLens.possible)} are possible, by their size times their probability. `
                  : `${count(inLens["too little data"])} have too little data, the largest first. `}
                {list.noticed}
              </>
            ) : moreShown ? (
              <>
                {count(list.total - list.sure)} more shown here are possible or have too little data.{" "}
                <Button plain onClick={() => change({ evidence: undefined })}>
                  Hide them
                </Button>
              </>
            ) : (
              more > 0 && (
                <>
                  {count(inLens.possible)} more are possible, {count(inLens["too little data"] ?? 0)} have too little
                  data.{" "}
                  <Button plain onClick={() => change({ evidence: GRADES })}>
                    Show them
                  </Button>
                </>
              )
            )}
          </>
        )}
      </p>
      {/* It is there before the list does, so that nothing moves when that comes. */}
      <div className="mt-1 flex flex-wrap gap-x-4">
        {search.finding !== "query-page-mismatch" && (
          <Views
            plain
            views={viewsOf(list?.listable ?? ["row", "query"])}
            chosen={list?.by ?? LISTABLE.find((by) => by === search.by) ?? "row"}
            choose={(by) => change({ by, row: undefined, sort: undefined, up: undefined })}
          />
        )}
        <span className="ml-auto flex flex-wrap gap-x-4">{method}</span>
      </div>
      {list && list.lacking.length > 0 && <p className="mt-1 text-ochre text-xs">{list.lacking.join(" ")}</p>}
    </div>
  );
}
