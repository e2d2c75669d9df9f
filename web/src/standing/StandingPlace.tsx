// Standing: where the site stands against the same weeks last year, why, which sections and pages made the change, and what
// happened when.
import { getRouteApi, Link } from "@tanstack/react-router";
import { type ComponentProps, type ReactNode, useCallback, useMemo, useState } from "react";
import type { Schemas } from "../api/client";
import { useBreaks, useStanding } from "../api/hooks";
import { useSite } from "../frame/Frame";
import { ChangeSteps } from "../pages/ChangeSteps";
import { TopLine } from "../queries/TopLine";
import { Beside } from "../shared/Beside";
import { ExportMenu } from "../shared/ExportMenu";
import { findingFile } from "../shared/export";
import { count, day, path, change as signed } from "../shared/format";
import { Method } from "../shared/Method";
import { Picture } from "../shared/Picture";
import { Button, Failed, Notice } from "../shared/parts";
import { NoData, useListPlace } from "../shared/place";
import { SplitPane } from "../shared/SplitPane";
import { type ScopeSearch, type StandingAsked, standingAsked } from "../state/search";
import { Events } from "./Events";
import { SectionStrips } from "./SectionStrips";
import { WeeksBeside } from "./WeeksBeside";
import { WeeksTable } from "./WeeksTable";

const route = getRouteApi("/reader/$site/standing");
type Told = Schemas["Standing"];

export function StandingPlace() {
  const { slug, site } = useSite();
  const search = route.useSearch();
  const navigate = route.useNavigate();
  const asked = useMemo(() => standingAsked(search), [search]);
  const standing = useStanding(slug, asked, Boolean(site?.last_day));
  const [opened, setOpened] = useState<string | null>(null);
  const change = useCallback(
    (part: Partial<ScopeSearch>) => navigate({ search: (now) => ({ ...now, ...part }) }),
    [navigate],
  );
  const exported = { base: findingFile(slug, "change"), asked, rows: "the change of every page" };
  useListPlace({ title: `Standing · ${site?.name ?? ""}`, open: setOpened, ...exported });

  if (!site) return null;
  if (!site.last_day) return <NoData slug={slug} />;
  const told = standing.data;
  return (
    <>
      <TopLine site={site} search={search} list={told} change={change} opened={opened} setOpened={setOpened} sums />
      <h1 className="sr-only">Standing</h1>
      {standing.error && <Failed error={standing.error} retry={() => standing.refetch()} />}
      {!standing.error && !told && (
        <Notice title="Adding up">The period's facts and visits are set beside those of a year before.</Notice>
      )}
      {!standing.error && told && (
        <div className={`flex min-h-0 flex-1 flex-col ${standing.isPlaceholderData ? "opacity-60" : ""}`}>
          <SplitPane
            name="standing"
            left={
              <Weeks told={told} slug={slug} mayChange={site.may_change} section={search.section} exported={exported} />
            }
            right={
              <div className="space-y-5 px-5 py-3">
                <Part title="Sections">
                  <SectionStrips
                    slug={slug}
                    asked={asked}
                    inside={search.section ?? ""}
                    go={(section) => change({ section: section || undefined })}
                  />
                </Part>
                <Who told={told} slug={slug} search={search} />
                <BreaksFound slug={slug} asked={asked} />
              </div>
            }
          />
        </div>
      )}
    </>
  );
}

function Part({ title, children, aside }: { title: string; children: ReactNode; aside?: ReactNode }) {
  return (
    <section>
      <div className="mb-1 flex items-baseline justify-between gap-x-3 border-rule border-b pb-0.5">
        <h2 className="text-[15px]">{title}</h2>
        {aside}
      </div>
      {children}
    </section>
  );
}

function Weeks(props: {
  told: Told;
  slug: string;
  mayChange: boolean;
  section?: string;
  exported: ComponentProps<typeof ExportMenu>;
}) {
  const { told, slug } = props;
  const [week, setWeek] = useState<string | null>(null);
  return (
    <section aria-label="Weeks" className="h-full space-y-4 overflow-auto px-4 py-3">
      <div>
        <p className="font-serif text-lg leading-snug">
          {props.section && <span className="text-faint">Pages in {props.section}: </span>}
          {told.sentences.join(" ")}
        </p>
        {told.lacking.length > 0 && <p className="text-ochre text-xs">{told.lacking.join(" ")}</p>}
      </div>
      <Beside measures={told.measures} compared={told.before !== null} />
      <Part
        title="Week by week"
        aside={
          <span className="text-faint text-xs">
            dashed: the same weeks a year before; shaded: the period; flags: events
          </span>
        }
      >
        <Picture name="week by week">
          <WeeksBeside weeks={told.weeks} events={told.events} pickWeek={setWeek} />
        </Picture>
        <Events slug={slug} events={told.events} mayChange={props.mayChange} week={week} setWeek={setWeek} />
        <WeeksTable weeks={told.weeks} />
      </Part>
      {told.change && (
        <Part
          title="Why clicks changed"
          aside={
            <span className="flex gap-x-4">
              <ExportMenu {...props.exported} />
              <Method name="why-clicks-changed" />
            </span>
          }
        >
          <Picture name="why clicks changed">
            <ChangeSteps change={told.change} />
          </Picture>
        </Part>
      )}
    </section>
  );
}

const ROLES: Record<string, string> = { earns: "pages that earn", informs: "pages that inform" };

function Who({ told, slug, search }: { told: Told; slug: string; search: ScopeSearch }) {
  if (!told.change) return null;
  return (
    <Part title="Who made the change" aside={<Method name="landing-pages" />}>
      <div className="grid gap-x-5 sm:grid-cols-2">
        <Movers title="Down" rows={told.down} slug={slug} search={search} />
        <Movers title="Up" rows={told.up} slug={slug} search={search} />
      </div>
      <table className="mt-2 w-full text-right">
        <thead className="text-faint text-xs">
          <tr>
            <th scope="col" className="text-left font-normal">
              earning and informing
            </th>
            {["pages", "then", "now", "change"].map((word) => (
              <th key={word} scope="col" className="font-normal">
                {word}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {told.by_role.map((one) => (
            <tr key={String(one.role)} className="border-rule border-t">
              <th scope="row" className="text-left font-normal">
                {ROLES[one.role ?? ""] ?? "too few visits to say"}
              </th>
              <td>{count(one.pages)}</td>
              <td>{count(one.clicks_before)}</td>
              <td>{count(one.clicks_after)}</td>
              <td className={one.by < 0 ? "text-rust" : "text-spruce"}>{signed(one.by)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Part>
  );
}

type MoversProps = { title: string; rows: Schemas["Mover"][]; slug: string; search: ScopeSearch };

function Movers({ title, rows, slug, search }: MoversProps) {
  const most = Math.max(...rows.map((row) => Math.abs(row.by)), 1);
  return (
    <div>
      <h3 className="text-faint text-xs">{title}</h3>
      {rows.length === 0 && <p className="text-faint text-xs">No page by a click or more.</p>}
      <ol>
        {rows.map((row) => (
          <li key={row.page_id} className="border-rule border-b py-0.5">
            <div className="flex items-baseline gap-2">
              <Link
                to="/$site/pages"
                params={{ site: slug }}
                search={{ ...search, page: row.page_id }}
                title={`Open the file of ${row.page}`}
                className="min-w-0 flex-1 truncate hover:underline"
              >
                {path(row.page)}
              </Link>
              {row.role === "informs" && <span className="text-faint text-xs">informs</span>}
              <span className={row.by < 0 ? "text-rust" : "text-spruce"}>{signed(row.by)}</span>
            </div>
            <div className="flex h-1" aria-hidden="true">
              <div
                className={row.by < 0 ? "bg-rust" : "bg-spruce"}
                style={{ width: `${(Math.abs(row.by) / most) * 100}%` }}
              />
            </div>
          </li>
        ))}
      </ol>
    </div>
  );
}

function BreaksFound({ slug, asked }: { slug: string; asked: StandingAsked }) {
  const found = useBreaks(slug, asked);
  if (found.error) return <Failed error={found.error} retry={() => found.refetch()} />;
  if (!found.data) return null;
  const { cliffs, rows, sentences } = found.data;
  return (
    <Part title="Breaks and cliffs" aside={<Method name="breaks" />}>
      <p>{sentences[0]}</p>
      <ul className="mt-1 space-y-1">
        {cliffs
          .filter((one) => one.beyond_chance)
          .map((one) => (
            <li key={`${one.week}${one.fell}`}>
              <span className={one.fell ? "text-rust" : "text-spruce"}>{one.sentence}</span>
              <p className="text-faint text-xs">{one.pages.map(path).join(", ")}</p>
            </li>
          ))}
      </ul>
      <Breaks rows={rows} slug={slug} />
    </Part>
  );
}

const FIRST = 8;

function Breaks({ rows, slug }: { rows: Schemas["BreakShown"][]; slug: string }) {
  const [all, setAll] = useState(false);
  if (rows.length === 0) return null;
  return (
    <>
      <table className="mt-2 w-full text-right">
        <thead className="text-faint text-xs">
          <tr>
            <th scope="col" className="text-left font-normal">
              page
            </th>
            {["from the week of", "clicks a week", "by"].map((word) => (
              <th key={word} scope="col" className="pl-2 font-normal">
                {word}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {(all ? rows : rows.slice(0, FIRST)).map((one) => (
            <tr key={`${one.page_id}${one.week}`} className="border-rule border-t align-top">
              <th scope="row" className="max-w-32 text-left font-normal">
                <Link
                  to="/$site/pages"
                  params={{ site: slug }}
                  search={{ page: one.page_id ?? undefined }}
                  title={one.name}
                  className="block min-h-6 truncate leading-6 hover:underline"
                >
                  {path(one.name)}
                </Link>
                <span className="block truncate text-faint text-xs" title={one.event ?? undefined}>
                  {one.event ? `near “${one.event}”` : !one.season_known && "may be a season of its own"}
                </span>
              </th>
              <td className="whitespace-nowrap pl-2">{day(one.week)}</td>
              <td className="whitespace-nowrap pl-2">
                {count(one.before)} → {count(one.after)}
              </td>
              <td className={`whitespace-nowrap pl-2 ${one.size < 0 ? "text-rust" : "text-spruce"}`}>
                {signed(one.size * 100)} %
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length > FIRST && (
        <Button plain className="mt-1" onClick={() => setAll(!all)}>
          {all ? "Fewer" : `All ${rows.length}`}
        </Button>
      )}
    </>
  );
}
