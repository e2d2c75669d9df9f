// Moves: what was decided, by whom, when, and the result.
import { moveQuery, usePrefetch } from "../api/ask";
import { Figure, Named } from "../listing/cells";
import { FindingPlace, type PlaceProps } from "../listing/FindingPlace";
import { PlaceLine } from "../listing/PlaceLine";
import { TextSearch } from "../listing/TopLine";
import { EvidenceMark } from "../shared/EvidenceMark";
import { download } from "../shared/export";
import { count, day, NONE, path, change as signed } from "../shared/format";
import { Button, Notice } from "../shared/parts";
import { Views } from "../shared/Views";
import { STATES, type View } from "../state/view";
import { TrialsPlace } from "../trials/TrialsPlace";
import { ChangeMarked } from "./ChangeMarked";
import { MoveSheet } from "./MoveSheet";
import { Snoozed } from "./Snoozed";
import { EFFORTS } from "./words";

const EVERY_STATE: Record<string, string> = { "": "all", ...Object.fromEntries(STATES.map((state) => [state, state])) };

export function MovesPlace(props: PlaceProps) {
  return props.search.finding === "trials" ? <TrialsPlace {...props} /> : <Moves {...props} />;
}

function Moves(props: PlaceProps) {
  const { site, search, change } = props;
  const { slug } = site;
  const prefetch = usePrefetch();
  const { state, text } = search;
  return (
    <FindingPlace
      {...props}
      bare
      finding="moves"
      options={{ state, text }}
      onMarked={(marked) => <ChangeMarked slug={slug} marked={marked} />}
      top={
        <PlaceLine site={site} to="/$site/moves">
          <Views
            plain
            views={EVERY_STATE}
            chosen={state ?? ""}
            choose={(chosen) => change({ state: (chosen || undefined) as View["state"] })}
          />
          <Button
            plain
            onClick={() => download(`/api/sites/${slug}/moves/calendar`)}
            title="Moves as to-dos, for a calendar"
          >
            To-dos (iCalendar)
          </Button>
          <TextSearch text={text ?? ""} change={change} />
        </PlaceLine>
      }
      look={() => ({
        least: 40,
        rowHeight: 46,
        near: (key) => prefetch(moveQuery(slug, key)),
        cells: {
          kind_words: (row) => (
            <Named
              name={<span className="inline-block first-letter:uppercase">{row.kind_words}</span>}
              title={row.page}
              mark={null}
              below={[row.query && `“${row.query}”`, row.page && path(row.page)].filter(Boolean).join(" on ")}
            />
          ),
          gain_cautious: (row) => <Figure value={row.gain_cautious} below={<EvidenceMark grade={row.evidence} />} />,
          rank: (row) => (
            <>
              <div>{count(row.rank)}</div>
              <div className="text-faint text-xs">{EFFORTS[row.effort]}</div>
            </>
          ),
          state: (row) => (
            <>
              <div>{row.state}</div>
              {row.ready && <div className="text-spruce text-xs">can be measured</div>}
            </>
          ),
          due: (row) => (
            <>
              <div className="truncate">{row.who ?? NONE}</div>
              {row.due && (
                <div className={`whitespace-nowrap text-xs ${row.late ? "text-rust" : "text-faint"}`}>
                  {day(row.due)}
                </div>
              )}
            </>
          ),
          result_clicks: (row) =>
            row.result_clicks == null ? (
              NONE
            ) : (
              <>
                <div className={row.result_clicks < 0 ? "text-rust" : "text-spruce"}>
                  {signed(row.result_clicks)} a day
                </div>
                <div className="text-xs">{row.outcome_evidence && <EvidenceMark grade={row.outcome_evidence} />}</div>
              </>
            ),
        },
        widths: { gain_cautious: "4.2rem", state: "6.4rem", due: "5.2rem", result_clicks: "4.8rem" },
        empty: (
          <Notice
            title={state || text ? "No matches" : "No moves yet"}
            action={
              (state || text) && <Button onClick={() => change({ state: undefined, text: undefined })}>Show all</Button>
            }
          >
            Select a row in Pages, Queries or Clashes and press m. The move is prefilled with its expected gain.
          </Notice>
        ),
        waiting: "One moment.",
      })}
      foot={<Snoozed slug={slug} mayChange={site.may_change} />}
      evidence={(row) =>
        row !== undefined && (
          <MoveSheet
            key={row}
            site={site}
            row={row}
            gone={() => change({})}
            hold={() => search.row ?? change({ row })}
          />
        )
      }
    />
  );
}
