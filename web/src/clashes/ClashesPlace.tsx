// Clashes: queries that the site's pages compete for, the suggested lead, and what to do.
import { useNavigate } from "@tanstack/react-router";
import { clashQuery, useMarks, usePrefetch } from "../api/ask";
import { Figure, Named } from "../listing/cells";
import { FindingPlace, type PlaceProps } from "../listing/FindingPlace";
import { MarkWord } from "../moves/MarkWord";
import { EvidenceMark } from "../shared/EvidenceMark";
import { path } from "../shared/format";
import { Button, Notice } from "../shared/parts";
import { isSure, NO_FILTERS, optionsOf } from "../state/view";
import { ClashFile } from "./ClashFile";
import { OverlappingPages } from "./OverlappingPages";
import { SettleMarked } from "./SettleMarked";

export function ClashesPlace(props: PlaceProps) {
  const { site, search, change } = props;
  const navigate = useNavigate();
  const marks = useMarks(site.slug);
  const prefetch = usePrefetch();
  const options = optionsOf(search);
  if (search.finding === "overlapping-pages") return <OverlappingPages {...props} />;
  return (
    <FindingPlace
      {...props}
      finding="clashes"
      options={options}
      onMarked={(marked) => <SettleMarked site={site} marked={marked} options={options} />}
      below={(list) =>
        list?.no_longer.map((one) => (
          <p key={one.query_id} className="text-spruce text-xs">
            “{one.query}” was decided ({one.decision.choice}) and does not clash here. {one.decision.sentence}
          </p>
        ))
      }
      look={() => ({
        least: 36,
        rowHeight: 46,
        near: (key) => prefetch(clashQuery(site.slug, options, key)),
        open: (_, row) => {
          const params = { site: site.slug };
          if (row) navigate({ to: "/$site/pages", params, search: { row: String(row.lead_id) } });
        },
        cells: {
          query: (row) => (
            <Named
              name={row.query}
              title={row.lead}
              mark={<MarkWord mark={marks.of({ query: row.query_id })} />}
              below={row.decision ? row.decision.sentence : path(row.lead)}
            />
          ),
          loss_month: (row) => (
            <Figure
              value={row.loss_month}
              below={row.kind !== "double listing" && isSure(row.evidence) && <EvidenceMark grade={row.evidence} />}
            />
          ),
        },
        empty: (
          <Notice title="No clashes" action={<Button onClick={() => change(NO_FILTERS)}>Remove the filters</Button>}>
            No two pages compete for a query with these filters and enough impressions.
          </Notice>
        ),
        waiting: "Comparing each query's pages day by day.",
      })}
      evidence={(row, list) => <ClashFile site={site} options={options} row={row} period={list?.period} />}
    />
  );
}
