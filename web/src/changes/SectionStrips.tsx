// The sections as nested strips: width by impressions, tone by the share of clicks lost; click to open one.
import { type Row, useFinding } from "../api/ask";
import { FigureTable } from "../shared/FigureTable";
import { count, share, change as signed } from "../shared/format";
import { Method } from "../shared/Method";
import { Picture } from "../shared/Picture";
import { Button, Failed } from "../shared/parts";
import type { ViewOptions } from "../state/view";

type Section = Row<"sections">;
const DARKEST = 45; // per cent of rust; ink on it keeps a contrast of 4.5 : 1 in both themes
// A narrower strip has no room for its name or a click: the table below links to it.
const NAMED = 0.07;
const LISTED = 8;

type Props = { slug: string; options: ViewOptions; inside: string; go: (section: string) => void };

export function SectionStrips({ slug, options, inside, go }: Props) {
  const answer = useFinding(slug, "sections", options, { limit: 500 });
  if (answer.error) return <Failed error={answer.error} retry={() => answer.refetch()} />;
  if (!answer.data) return <p className="min-h-[26rem] text-faint">Adding up the sections…</p>;
  const rows = answer.data.rows;
  const current = rows.find((row) => row.section === (inside || "/"));
  const below = (parent: string) =>
    rows.filter((row) => row.parent === parent).sort((one, other) => other.impressions - one.impressions);
  const children = below(inside || "/");
  return (
    <div
      aria-busy={answer.isPlaceholderData}
      className={`min-h-[26rem] ${answer.isPlaceholderData ? "opacity-60" : ""}`}
    >
      <div className="flex items-baseline justify-between">
        <Trail inside={inside} go={go} />
        <Method name="sections" />
      </div>
      {current && current.impressions > 0 ? (
        <Picture name="sections">
          <div className="mt-1 space-y-0.5" data-testid="strips">
            <div className="flex h-7">
              <Strip
                row={current}
                of={current.impressions}
                whole={current.impressions}
                label={inside || "the whole site"}
              />
            </div>
            <div className="flex h-7">
              {current.impressions_itself > 0 && (
                <Itself row={current} of={current.impressions} whole={current.impressions} />
              )}
              {children.map((row) => (
                <Strip
                  key={row.section}
                  row={row}
                  of={current.impressions}
                  whole={current.impressions}
                  label={name(row)}
                  go={go}
                />
              ))}
            </div>
            <div className="flex h-6">
              {current.impressions_itself > 0 && (
                <div style={{ width: `${(current.impressions_itself / current.impressions) * 100}%` }} />
              )}
              {children.map((child) => (
                <div
                  key={child.section}
                  className="flex min-w-0"
                  style={{ width: `${(child.impressions / current.impressions) * 100}%` }}
                >
                  {child.impressions_itself > 0 && (
                    <Itself row={child} of={child.impressions} whole={current.impressions} />
                  )}
                  {below(child.section).map((row) => (
                    <Strip
                      key={row.section}
                      row={row}
                      of={child.impressions}
                      whole={current.impressions}
                      label={name(row)}
                      go={go}
                    />
                  ))}
                </div>
              ))}
            </div>
          </div>
        </Picture>
      ) : (
        <p className="text-faint">No section here has two pages or more.</p>
      )}
      {children.length > 0 && <Table rows={children} go={go} />}
      <p className="mt-1 text-faint text-xs">
        Width: impressions. Darker: a larger share of expected clicks is lost. Ruled: the section's own page. Blank:
        pages directly in the section.
      </p>
    </div>
  );
}

const name = (row: Section) => row.section.replace(/\/$/, "").split("/").at(-1) || row.section;

const words = (row: Section) =>
  `${row.section}: ${count(row.impressions)} impressions, ${count(row.clicks)} clicks, ${share(row.lost_share)} of expected clicks lost, ${row.pages} pages`;

type StripProps = { row: Section; of: number; whole: number; label: string; go?: (section: string) => void };
const STRIP =
  "min-w-0 overflow-hidden text-ellipsis whitespace-nowrap text-left text-xs leading-6 shadow-[inset_-1px_0_var(--paper)]";
const roomy = (part: number, whole: number) => part / whole >= NAMED;

function Strip(props: StripProps) {
  const { row, of, whole, label, go } = props;
  const named = roomy(row.impressions, whole);
  const style = {
    width: `${(row.impressions / of) * 100}%`,
    background: `color-mix(in srgb, var(--rust) ${Math.round(Math.min((row.lost_share ?? 0) * 2, 1) * DARKEST)}%, var(--shade))`,
  };
  const look = `${STRIP} ${named ? "px-1" : ""}`;
  if (!go || !named)
    return (
      <div className={look} style={style} title={words(row)}>
        {named && label}
      </div>
    );
  return (
    <button
      type="button"
      className={`${look} hover:underline`}
      style={style}
      title={words(row)}
      aria-label={`Open ${words(row)}`}
      onClick={() => go(row.section)}
    >
      {named && label}
    </button>
  );
}

function Itself({ row, of, whole }: { row: Section; of: number; whole: number }) {
  return (
    <div
      className={`${STRIP} ${roomy(row.impressions_itself, whole) ? "px-1" : ""}`}
      style={{
        width: `${(row.impressions_itself / of) * 100}%`,
        background: "repeating-linear-gradient(135deg, var(--shade) 0 5px, var(--sheet) 5px 8px)",
      }}
      title={`The page ${row.section} itself: ${count(row.impressions_itself)} impressions, ${count(row.clicks_itself)} clicks`}
    >
      {roomy(row.impressions_itself, whole) && "itself"}
    </div>
  );
}

function Trail({ inside, go }: { inside: string; go: (section: string) => void }) {
  const parts = inside.split("/").filter(Boolean);
  return (
    <nav aria-label="Section" className="flex flex-wrap gap-x-1">
      {parts.length > 0 ? (
        <Button plain onClick={() => go("")}>
          the whole site
        </Button>
      ) : (
        <span>the whole site</span>
      )}
      {parts.map((part, number) => {
        const to = `/${parts.slice(0, number + 1).join("/")}/`;
        return (
          <span key={to} className="flex gap-x-1">
            <span className="text-faint">›</span>
            {number < parts.length - 1 ? (
              <Button plain onClick={() => go(to)}>
                {part}
              </Button>
            ) : (
              <span>{part}</span>
            )}
          </span>
        );
      })}
    </nav>
  );
}

function Table({ rows, go }: { rows: Section[]; go: (section: string) => void }) {
  return (
    <FigureTable
      className="mt-2"
      first={LISTED}
      rows={rows}
      keyOf={(row) => row.section}
      columns={[
        {
          head: "section",
          look: "max-w-32 truncate",
          cell: (row) => (
            <Button plain className="min-h-6" onClick={() => go(row.section)}>
              {row.section}
            </Button>
          ),
        },
        { head: "pages", cell: (row) => count(row.pages) },
        { head: "clicks", cell: (row) => count(row.clicks) },
        {
          head: "change",
          look: (row) => ((row.change ?? 0) < 0 ? "text-rust" : "text-spruce"),
          cell: (row) => signed(row.change),
        },
        { head: "visits", cell: (row) => count(row.sessions) },
        { head: "lost clicks a month", cell: (row) => count(row.lost_month) },
        { head: "potential clicks a month", cell: (row) => count(row.potential_month) },
      ]}
    />
  );
}
