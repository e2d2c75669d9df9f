// Tests: what is tested, what could be detected, and the results.

import { Figure, Named } from "../listing/cells";
import { FindingPlace, type PlaceProps } from "../listing/FindingPlace";
import { PlaceLine } from "../listing/PlaceLine";
import { TextSearch } from "../listing/TopLine";
import { day, NONE } from "../shared/format";
import { Button, Notice } from "../shared/parts";
import { TrialFile } from "./TrialFile";
import { effectWords, SHORTLY } from "./words";

export function TrialsPlace(props: PlaceProps) {
  const { site, search, change } = props;
  const { text } = search;
  return (
    <FindingPlace
      {...props}
      bare
      finding="trials"
      options={{ text }}
      top={
        <PlaceLine site={site} to="/$site/moves">
          <TextSearch text={text ?? ""} change={change} />
        </PlaceLine>
      }
      look={() => ({
        least: 34,
        rowHeight: 42,
        near: () => {},
        cells: {
          name: (row) => <Named name={row.name} title={row.change} mark={null} below={SHORTLY[row.design]} />,
          changed: (row) => <Figure value={row.changed} />,
          until: (row) => <span className="whitespace-nowrap">{day(row.until)}</span>,
          effect: (row) => (
            <span className={row.p_value != null && row.p_value <= 0.05 ? "font-semibold" : "text-faint"}>
              {effectWords(row.effect, row.measure)}
            </span>
          ),
          p_value: (row) => (row.p_value == null ? NONE : row.p_value < 0.001 ? "< 0.001" : row.p_value.toFixed(3)),
        },
        widths: { until: "6.6rem", state: "5rem", effect: "4.6rem", p_value: "4rem", changed: "4.4rem" },
        empty: (
          <Notice
            title={text ? "No matches" : "No trials yet"}
            action={text && <Button onClick={() => change({ text: undefined })}>Show all</Button>}
          >
            Select pages in Pages with the space bar, then “Start a trial”. You see the smallest detectable effect
            first.
          </Notice>
        ),
        waiting: "One moment.",
      })}
      evidence={(row, list) =>
        row !== undefined && (list?.total ?? 0) > 0 && <TrialFile key={row} site={site} id={Number(row)} />
      }
    />
  );
}
