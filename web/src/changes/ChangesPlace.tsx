// Changes: clicks compared with the same weeks last year, why they changed, which sections and pages caused it, and when.
import { getRouteApi } from "@tanstack/react-router";
import { type ComponentProps, useCallback, useMemo, useState } from "react";
import { ask, STEADY } from "../api/ask";
import type { Schemas } from "../api/client";
import { useSite } from "../frame/useSite";
import { NoData, useListPlace } from "../listing/place";
import { TopLine } from "../listing/TopLine";
import { ChangeSteps } from "../pages/ChangeSteps";
import { ExportMenu } from "../shared/ExportMenu";
import { download, findingFile, withParameters } from "../shared/export";
import { MeasureCards } from "../shared/MeasureCards";
import { Method } from "../shared/Method";
import { Picture } from "../shared/Picture";
import { Button, Failed, Notice } from "../shared/parts";
import { SplitPane } from "../shared/SplitPane";
import { optionsOf, type View } from "../state/view";
import { BreaksFound } from "./BreaksFound";
import { Events } from "./Events";
import { Part } from "./Heading";
import { PointedPages } from "./PointedPages";
import { SectionStrips } from "./SectionStrips";
import { WeeksCompared } from "./WeeksCompared";
import { WeeksTable } from "./WeeksTable";
import { Who } from "./Who";

const route = getRouteApi("/reader/$site/changes");
type Details = Schemas["Changes"];

export function ChangesPlace() {
  const { slug, site } = useSite();
  const search = route.useSearch();
  const navigate = route.useNavigate();
  const options = useMemo(() => optionsOf(search), [search]);
  const standing = ask.useQuery(
    "get",
    "/api/sites/{slug}/changes",
    { params: { path: { slug }, query: options } },
    { ...STEADY, enabled: Boolean(site?.last_day) },
  );
  const [opened, setOpened] = useState<string | null>(null);
  const change = useCallback((part: Partial<View>) => navigate({ search: (now) => ({ ...now, ...part }) }), [navigate]);
  const exported = { base: findingFile(slug, "change"), options, rows: "the change of every page" };
  useListPlace({ title: `Changes · ${site?.name ?? ""}`, open: setOpened, ...exported });

  if (!site) return null;
  if (!site.last_day) return <NoData slug={slug} />;
  const answer = standing.data;
  return (
    <>
      <TopLine site={site} search={search} list={answer} change={change} opened={opened} setOpened={setOpened} />
      <h1 className="sr-only">Changes</h1>
      {standing.error && <Failed error={standing.error} retry={() => standing.refetch()} />}
      {!standing.error && !answer && <Notice title="Calculating">Comparing the period with a year before.</Notice>}
      {!standing.error && answer && (
        <div className={`flex min-h-0 flex-1 flex-col ${standing.isPlaceholderData ? "opacity-60" : ""}`}>
          <SplitPane
            name="standing"
            left={
              <Weeks
                answer={answer}
                slug={slug}
                mayChange={site.may_change}
                section={search.section}
                exported={exported}
              />
            }
            right={
              <PointedPages site={site} options={options}>
                <div className="space-y-5 px-5 py-3">
                  <Part title="Sections">
                    <SectionStrips
                      slug={slug}
                      options={options}
                      inside={search.section ?? ""}
                      go={(section) => change({ section: section || undefined })}
                    />
                  </Part>
                  <Who answer={answer} slug={slug} search={search} />
                  <BreaksFound slug={slug} options={options} />
                </div>
              </PointedPages>
            }
          />
        </div>
      )}
    </>
  );
}

function Weeks(props: {
  answer: Details;
  slug: string;
  mayChange: boolean;
  section?: string;
  exported: ComponentProps<typeof ExportMenu>;
}) {
  const { answer, slug } = props;
  const [week, setWeek] = useState<string | null>(null);
  const [making, setMaking] = useState(false);
  async function report() {
    if (making) return;
    setMaking(true);
    const { first, last } = answer.period;
    await download(withParameters(`/api/sites/${slug}/report`, { first, last }));
    setMaking(false);
  }
  return (
    <section aria-label="Weeks" className="h-full space-y-4 overflow-auto px-4 py-3">
      <div>
        <p className="font-serif text-lg leading-snug">
          {props.section && <span className="text-faint">Pages in {props.section}: </span>}
          {answer.sentences.join(" ")}
        </p>
        <p>
          <Button
            plain
            className="min-h-6"
            onClick={report}
            title="PDF: how the site performs, why, what was found, done and tested, and what is next"
          >
            {making ? "Typesetting the report…" : "Report on these days (PDF)"}
          </Button>
        </p>
        {answer.lacking.length > 0 && <p className="text-ochre text-xs">{answer.lacking.join(" ")}</p>}
      </div>
      <MeasureCards measures={answer.measures} compared={answer.before !== null} />
      <Part
        title="Week by week"
        aside={
          <span className="text-faint text-xs">
            dashed: the same weeks last year; shaded: the period; flags: events
          </span>
        }
      >
        <Picture name="week by week">
          <WeeksCompared weeks={answer.weeks} events={answer.events} pickWeek={setWeek} />
        </Picture>
        <Events slug={slug} events={answer.events} mayChange={props.mayChange} week={week} setWeek={setWeek} />
        <WeeksTable weeks={answer.weeks} />
      </Part>
      {answer.change && (
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
            <ChangeSteps change={answer.change} />
          </Picture>
        </Part>
      )}
    </section>
  );
}
