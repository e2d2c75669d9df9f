// The query groups of a site: what their queries earn and could gain; beside it why the clicks of the chosen one changed, and the
// way into its rows.
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { type QueryGroup, useQueryGroups } from "../api/hooks";
import { ChangeSteps } from "../pages/ChangeSteps";
import { count, place, share, change as signed } from "../shared/format";
import { ListSays } from "../shared/ListPlace";
import { Method } from "../shared/Method";
import { Part } from "../shared/Part";
import { Picture } from "../shared/Picture";
import { Button, EvidenceMark, Failed, Notice } from "../shared/parts";
import { SplitPane } from "../shared/SplitPane";
import { LENSES, type Lens, type QueriesSearch, type ScopeAsked } from "../state/search";

type Props = {
  slug: string;
  asked: ScopeAsked;
  search: QueriesSearch;
  change: (part: Partial<QueriesSearch>) => void;
};

export function QueryGroups({ slug, asked, search, change }: Props) {
  const found = useQueryGroups(slug, asked, true);
  const [picked, setPicked] = useState<string | null>(null);
  if (found.error) return <Failed error={found.error} retry={() => found.refetch()} />;
  if (!found.data) return <Notice title="Adding up">The rows of each group are added up.</Notice>;
  const { rows, sentences, lacking } = found.data;
  const chosen = rows.find((row) => row.group === picked) ?? rows[0];
  if (!chosen)
    return found.data.known > 0 ? (
      <Notice
        title="No query here"
        action={
          <Button onClick={() => change({ section: undefined, type: undefined, group: undefined, text: undefined })}>
            Take the filters off
          </Button>
        }
      >
        No query of these filters was shown in the period.
      </Notice>
    ) : (
      <Notice
        title="No query groups yet"
        action={
          <Link to="/$site/intake/cleaning" params={{ site: slug }} className="underline">
            To Cleaning
          </Link>
        }
      >
        {sentences.join(" ")}
      </Notice>
    );
  return (
    <SplitPane
      name="groups"
      left={
        <section aria-label="List" className="flex h-full flex-col">
          <ListSays sentences={sentences} lacking={lacking} aside={<Method name="the-account-of-a-page" />} />
          <div className="overflow-auto">
            <GroupTable rows={rows} chosen={chosen.group} pick={setPicked} />
          </div>
        </section>
      }
      right={<GroupFile group={chosen} search={search} change={change} slug={slug} />}
    />
  );
}

const named = (group: QueryGroup) => group.group || "in no group";

type TableProps = { rows: QueryGroup[]; chosen: string; pick: (group: string) => void };

function GroupTable({ rows, chosen, pick }: TableProps) {
  const most = Math.max(...rows.map((row) => row.gain_month), 1);
  return (
    <table className="w-full min-w-[34rem] text-right" data-testid="groups">
      <thead className="border-ink border-b text-faint text-xs">
        <tr>
          <th scope="col" className="py-1.5 pl-4 text-left font-normal">
            group
          </th>
          {["to gain", "queries", "clicks", "shown", "CTR", "pos."].map((word) => (
            <th key={word} scope="col" className="px-2 font-normal">
              {word}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr
            key={row.group}
            aria-selected={row.group === chosen}
            className={`border-rule border-b align-top ${row.group === chosen ? "bg-picked" : "hover:bg-shade"}`}
          >
            <th scope="row" className="py-1.5 pl-4 text-left font-medium">
              <Button plain className="min-h-6" onClick={() => pick(row.group)} aria-pressed={row.group === chosen}>
                {named(row)}
              </Button>
            </th>
            <td className="px-2 py-1.5">
              <div className="font-semibold font-serif text-[15px] leading-5">{count(row.gain_month)}</div>
              <div className="flex h-1 justify-end" aria-hidden="true">
                <div className="bg-spruce" style={{ width: `${(row.gain_month / most) * 100}%` }} />
              </div>
              <div className="text-xs">
                <EvidenceMark grade={row.evidence} />
              </div>
            </td>
            <td className="px-2 py-1.5">{count(row.queries)}</td>
            <td className="px-2 py-1.5">
              <div>{count(row.clicks)}</div>
              {row.change !== null && (
                <div className={`text-xs ${row.change < 0 ? "text-rust" : "text-faint"}`}>{signed(row.change)}</div>
              )}
            </td>
            <td className="px-2 py-1.5">{count(row.impressions)}</td>
            <td className="px-2 py-1.5">{share(row.ctr)}</td>
            <td className="px-2 py-1.5">{place(row.position)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

type FileProps = { group: QueryGroup; search: QueriesSearch; change: Props["change"]; slug: string };

function GroupFile({ group, search, change, slug }: FileProps) {
  const of = group.group ? [group.group] : undefined;
  return (
    <article aria-label="Group" className="px-5 py-3" data-testid="group">
      <h2 className="text-xl leading-6 first-letter:uppercase">{named(group)}</h2>
      <p className="mt-1 font-serif text-[15px] leading-snug">
        {count(group.queries)} queries on {count(group.pages)} pages: {count(group.clicks)} clicks, at least{" "}
        {count(group.gain_month)} a month to gain, {count(group.at_stake_month)} at stake.
      </p>
      {group.why && (
        <Part title="Why clicks changed" method="why-clicks-changed">
          <Picture name={`why clicks changed ${named(group)}`}>
            <ChangeSteps change={group.why} />
          </Picture>
        </Part>
      )}
      {of && (
        <Part title="Its rows">
          <ul className="space-y-1">
            {(Object.keys(LENSES) as Lens[]).map((lens) => (
              <li key={lens}>
                <Button plain className="min-h-6" onClick={() => change({ view: undefined, lens, group: of })}>
                  {LENSES[lens]}
                </Button>
              </li>
            ))}
            <li>
              <Link
                to="/$site/pages"
                params={{ site: slug }}
                search={{ from: search.from, to: search.to, compare: search.compare, group: of }}
                className="inline-block min-h-6 underline decoration-rule underline-offset-3"
              >
                Pages that are shown for them
              </Link>
            </li>
          </ul>
        </Part>
      )}
    </article>
  );
}
