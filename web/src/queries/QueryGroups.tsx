// The query groups of a site: clicks and opportunity of their queries; next to it why the chosen group's clicks changed, and a
// link to its rows.
import { Link } from "@tanstack/react-router";
import type { Row } from "../api/ask";
import { CATALOG } from "../api/catalog.generated";
import { Changed, Gain } from "../listing/cells";
import { FindingPlace, type PlaceProps } from "../listing/FindingPlace";
import { ChangeSteps } from "../pages/ChangeSteps";
import { EvidenceMark } from "../shared/EvidenceMark";
import { count } from "../shared/format";
import { Part } from "../shared/Part";
import { Picture } from "../shared/Picture";
import { Button, Notice } from "../shared/parts";
import { isSure, LENSES, optionsOf } from "../state/view";

const IN_NONE = "without a group";
const named = (group: Row<"query-groups">) => group.group || IN_NONE;
const NO_FILTERS = { section: undefined, page_type: undefined, query_group: undefined, text: undefined };

export function QueryGroups(props: PlaceProps) {
  const { site, search, change } = props;
  return (
    <FindingPlace
      {...props}
      finding="query-groups"
      options={optionsOf(search)}
      look={(list) => ({
        least: 34,
        rowHeight: 46,
        near: () => undefined,
        cells: {
          group: (row) => (
            <>
              <div className="font-medium">{named(row)}</div>
              {isSure(row.evidence) && <EvidenceMark grade={row.evidence} />}
            </>
          ),
          gain_month: (row) => <Gain row={row} />,
          clicks: (row) => <Changed value={row.clicks} change={row.change} />,
        },
        widths: { gain_month: "6.4rem" },
        empty: list?.known ? (
          <Notice title="No queries" action={<Button onClick={() => change(NO_FILTERS)}>Remove the filters</Button>}>
            No query with these filters had impressions.
          </Notice>
        ) : (
          <Notice
            title="No query groups yet"
            action={
              <Link to="/$site/data/cleaning" params={{ site: site.slug }} className="link">
                Go to Cleaning
              </Link>
            }
          >
            {list?.sentences.join(" ")}
          </Notice>
        ),
        waiting: "Adding up the rows of each group.",
      })}
      evidence={(_, __, group) => group && <GroupFile group={group} {...props} />}
    />
  );
}

type FileProps = PlaceProps & { group: Row<"query-groups"> };

function GroupFile({ group, search, change, site }: FileProps) {
  const of = group.group ? [group.group] : undefined;
  return (
    <article aria-label="Group" className="px-5 py-3" data-testid="group">
      <h2 className="text-xl leading-6 first-letter:uppercase">{named(group)}</h2>
      <p className="mt-1 font-serif text-lead">
        {count(group.queries)} queries on {count(group.pages)} pages: {count(group.clicks)} clicks; about{" "}
        {count(group.lost_month)} lost clicks a month, {count(group.potential_month)} potential clicks.
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
            {LENSES.map((lens) => (
              <li key={lens}>
                <Button plain className="min-h-6" onClick={() => change({ finding: lens, query_group: of })}>
                  {CATALOG[lens].title}
                </Button>
              </li>
            ))}
            <li>
              <Link
                to="/$site/pages"
                params={{ site: site.slug }}
                search={{ first: search.first, last: search.last, compare: search.compare, query_group: of }}
                className="inline-block min-h-6 link"
              >
                Ranking pages
              </Link>
            </li>
          </ul>
        </Part>
      )}
    </article>
  );
}
