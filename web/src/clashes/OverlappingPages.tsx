// Pages that rank for the same queries, by similarity of text: similar text is one subject twice, different text two subjects
// treated as one. Each dot is a pair; the list below has the same, group by group.
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { type Row, useFinding } from "../api/ask";
import type { Schemas } from "../api/client";
import { FindingPlace, type PlaceProps } from "../listing/FindingPlace";
import { ListSays } from "../listing/ListPlace";
import { Dialog } from "../shared/Dialog";
import { FigureTable } from "../shared/FigureTable";
import { count, day, many, path, shorten } from "../shared/format";
import { Method } from "../shared/Method";
import { Part } from "../shared/Part";
import { Picture } from "../shared/Picture";
import { Button, Failed, Notice } from "../shared/parts";
import { SplitPane } from "../shared/SplitPane";
import { useWidth } from "../shared/useWidth";
import { optionsOf, type ViewOptions } from "../state/view";
import { SettleForm } from "./Settle";

type Fold = Row<"overlapping-pages">;
type Group = Schemas["PageGroup"];
const HEIGHT = 260;
const LEFT = 42;
const BOTTOM = 34;
const LEAST = 0.25; // the minimum overlap that is reported

export function OverlappingPages(props: PlaceProps) {
  const options = optionsOf(props.search);
  return (
    <FindingPlace
      {...props}
      finding="overlapping-pages"
      options={options}
      instead={<Groups site={props.site} options={options} />}
      look={() => ({
        least: 36,
        rowHeight: 46,
        near: () => undefined,
        empty: null,
        waiting: "",
      })}
      evidence={() => null}
    />
  );
}

function Groups({ site, options }: { site: Schemas["SiteShown"]; options: ViewOptions }) {
  const { slug } = site;
  const found = useFinding(slug, "overlapping-pages", options, { limit: 500 });
  const [picked, setPicked] = useState<string | null>(null);
  if (found.error) return <Failed error={found.error} retry={() => found.refetch()} />;
  if (!found.data) return <Notice title="Comparing pages">Comparing the queries they rank for with their text.</Notice>;
  const { rows, groups, sentences, lacking } = found.data;
  const groupsOf = groups.map((group) => ({ ...group, rows: rows.filter((row) => row.group === group.group) }));
  return (
    <SplitPane
      name="overlapping-pages"
      left={
        <section aria-label="Groups" className="h-full overflow-auto" data-testid="folds">
          <ListSays sentences={sentences} lacking={lacking} aside={<Method name="overlapping-pages" />} long />
          {groupsOf.map((group) => (
            <section key={group.group} className="border-rule border-b px-4 py-2.5">
              <p>
                Led by <span className="font-medium">{shortAddress(group.lead, group)}</span>
                <span className="text-faint">
                  , with{" "}
                  {group.pages
                    .filter((one) => one.page_id !== group.lead_id)
                    .map((one) => shortAddress(one.page, group))
                    .join(", ")}
                </span>
              </p>
              <SettleGroup site={site} group={group} options={options} />
              <ul>
                {group.rows.map((row) => (
                  <li
                    key={keyOf(row)}
                    className={`border-rule border-t py-1 ${picked === keyOf(row) ? "bg-picked" : ""}`}
                    onPointerEnter={() => setPicked(keyOf(row))}
                  >
                    <PageName slug={slug} id={row.page_id} name={shorten(row.page, [row.other])} /> and{" "}
                    <PageName slug={slug} id={row.other_id} name={shorten(row.other, [row.page])} />
                    <span className="text-faint">
                      {" "}
                      – {row.queries === 1 ? "one query" : `${count(row.queries)} queries`}, shown{" "}
                      {count(row.impressions)} times, {count(row.clicks)} and {count(row.other_clicks)} clicks
                      {row.since && `, since about ${day(row.since)}`}
                    </span>
                    <p className="text-xs">{row.sentence}</p>
                  </li>
                ))}
              </ul>
            </section>
          ))}
        </section>
      }
      right={
        <div className="px-5 py-3">
          <Part title="Shared queries and similar text">
            <Picture name="shared queries and similar text">
              <Pairs rows={rows} picked={picked} pick={setPicked} />
            </Picture>
          </Part>
          {picked && <Pair row={rows.find((row) => keyOf(row) === picked)} />}
        </div>
      }
    />
  );
}

/** The pair under the pointer, in figures. */
function Pair({ row }: { row: Fold | undefined }) {
  if (!row) return null;
  return (
    <div className="mt-3 border-rule border-t pt-2">
      <p className="font-serif text-lead">{row.sentence}</p>
      <FigureTable
        rows={[
          { name: shorten(row.page, [row.other]), clicks: row.clicks },
          { name: shorten(row.other, [row.page]), clicks: row.other_clicks },
        ]}
        keyOf={(one) => one.name}
        columns={[
          { head: "page", cell: (one) => one.name },
          { head: "clicks in the period", cell: (one) => count(one.clicks) },
        ]}
      />
    </div>
  );
}

const percent = (value: number) => `${count(value * 100)} %`;
const keyOf = (row: Fold) => `${row.page_id}-${row.other_id}`;

const shortAddress = (address: string, group: Group) =>
  shorten(
    address,
    group.pages.map((one) => one.page),
  );

/** The clashes of a group, settled by one decision. */
function SettleGroup({ site, group, options }: { site: Schemas["SiteShown"]; group: Group; options: ViewOptions }) {
  const [open, setOpen] = useState(false);
  const still = group.clashes.filter((one) => one.decided === null);
  const decided = group.clashes.length - group.still_open;
  if (group.clashes.length === 0) return <p className="text-faint text-xs">None of their queries has a clash.</p>;
  const queries = many(group.clashes.length, "query", "queries");
  return (
    <p className="flex flex-wrap items-baseline gap-x-3">
      <span>
        They compete for {queries}:{" "}
        <span className="text-faint">{group.clashes.map((one) => one.query).join(", ")}.</span>
      </span>
      {decided > 0 && <span>{count(decided)} decided.</span>}
      {site.may_change && still.length > 0 && (
        <Button plain onClick={() => setOpen(true)}>
          Settle the group
        </Button>
      )}
      <Dialog title="Settle the group" open={open} onOpen={setOpen}>
        <p className="mb-2 text-faint">{still.map((one) => one.query).join(", ")}</p>
        <SettleForm
          site={site}
          queries={still.map((one) => one.query_id)}
          pages={group.pages.map((one) => ({ id: one.page_id, name: shortAddress(one.page, group) }))}
          lead={group.lead_id}
          resolution={group.resolution ?? "unite"}
          options={options}
          done={() => setOpen(false)}
        />
      </Dialog>
    </p>
  );
}

function PageName({ slug, id, name }: { slug: string; id: number; name: string }) {
  return (
    <Link
      to="/$site/pages"
      params={{ site: slug }}
      search={{ row: String(id) }}
      className="font-medium hover:underline"
    >
      {name}
    </Link>
  );
}

type PairsProps = { rows: Fold[]; picked: string | null; pick: (key: string | null) => void };

function Pairs({ rows, picked, pick }: PairsProps) {
  const [box, width] = useWidth<HTMLDivElement>();
  const known = rows.filter((row) => row.say != null);
  const x = (value: number) => LEFT + ((value - LEAST) / (1 - LEAST)) * (width - LEFT - 20);
  const y = (value: number) => HEIGHT - BOTTOM - value * (HEIGHT - BOTTOM - 12);
  const most = Math.max(...known.map((row) => row.impressions), 1);
  if (rows.length > 0 && known.length === 0)
    return <p className="text-faint">The pages have not been crawled, so their text is unknown.</p>;
  return (
    <div ref={box} className="max-w-3xl">
      {width === 0 ? (
        <div style={{ height: HEIGHT }} />
      ) : (
        <svg
          width={width}
          height={HEIGHT}
          role="img"
          aria-label={`${count(known.length)} pairs of pages by shared queries and similar text`}
        >
          <line x1={x(LEAST)} x2={x(1)} y1={y(0)} y2={y(0)} stroke="var(--strong-rule)" />
          <line x1={x(LEAST)} x2={x(LEAST)} y1={y(0)} y2={y(1)} stroke="var(--strong-rule)" />
          {[0.25, 0.5, 0.75, 1].map((value) => (
            <text key={value} x={x(value)} y={y(0) + 14} fontSize="10" fill="var(--faint)" textAnchor="middle">
              {percent(value)}
            </text>
          ))}
          {[0, 0.5, 1].map((value) => (
            <text key={value} x={LEFT - 5} y={y(value) + 4} fontSize="10" fill="var(--faint)" textAnchor="end">
              {percent(value)}
            </text>
          ))}
          <text x={x(1)} y={y(0) + 28} fontSize="11" fill="var(--faint)" textAnchor="end">
            shared queries →
          </text>
          <text x={LEFT + 6} y={y(1) + 4} fontSize="11" fill="var(--faint)">
            ↑ say the same
          </text>
          {known.map((row) => {
            const side = 6 + 10 * Math.sqrt(row.impressions / most);
            const folded = row.kind === "mixed topics";
            return (
              <rect
                key={keyOf(row)}
                x={x(row.shared_queries) - side / 2}
                y={y(row.say ?? 0) - side / 2}
                width={side}
                height={side}
                fill={folded ? "var(--rust)" : "var(--ink)"}
                fillOpacity={picked === null || picked === keyOf(row) ? 0.85 : 0.3}
                stroke={picked === keyOf(row) ? "var(--ink)" : "none"}
                onPointerEnter={() => pick(keyOf(row))}
                onPointerLeave={() => pick(null)}
              >
                <title>{`${path(row.page)} and ${path(row.other)}: ${row.sentence}`}</title>
              </rect>
            );
          })}
        </svg>
      )}
      <p className="text-faint text-xs">
        Each square a pair of pages, larger the more often shown. Rust: two topics folded into one; ink: one subject
        twice.
      </p>
    </div>
  );
}
