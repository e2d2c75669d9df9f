import { type FormEvent, useState } from "react";
import { ask, ofSite, useFinding } from "../api/ask";
import { CATALOG } from "../api/catalog.generated";
import { EvidenceMark } from "../shared/EvidenceMark";
import { Choice, Field, MainButton } from "../shared/parts";
import { GRADES, type Grade, isLens, SURE, TARGETS, type Target } from "../state/view";
import type { TopLineProps } from "./topLineProps";
import { useKeep } from "./useKeep";

const chosen = (form: FormData, name: string) => {
  const stored = form.getAll(name).map(String);
  return stored.length ? stored : undefined;
};
const TOPICS = 300; // suggestions while typing
const POSITION = { type: "number", min: 1, max: 100, step: 0.1 } as const;
const amount = (text: FormDataEntryValue | null) => (text === null || text === "" ? undefined : Number(text));

export function FilterForm({ site, search, change, close, finding }: TopLineProps & { close: () => void }) {
  const keep = useKeep(site);
  // Findings list rows with evidence by default; other lists show all rows.
  const usual = isLens(finding) ? SURE : GRADES;
  const [grades, setGrades] = useState<Grade[]>(search.evidence ?? usual);
  // The fields that the finding uses can be set; sums use only days and parts of the site.
  const looksAt = (name: string) =>
    finding !== undefined && (CATALOG[finding].looks_at as readonly string[]).includes(name);

  async function apply(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const shown = amount(form.get("min_impressions"));
    const topic = String(form.get("topic") ?? "").trim();
    const saved = form.get("keep") && shown !== undefined && (await keep({ min_impressions: shown }));
    change({
      ...(looksAt("evidence") && {
        evidence: grades.length === 0 || grades.join() === usual.join() ? undefined : grades,
      }),
      position_from: amount(form.get("position_from")),
      position_to: amount(form.get("position_to")),
      min_impressions: saved || shown === site.min_impressions ? undefined : shown,
      device: chosen(form, "device"),
      country: chosen(form, "country"),
      section: String(form.get("section") ?? "").trim() || undefined,
      page_type: chosen(form, "page_type"),
      query_group: chosen(form, "query_group"),
      topic: looksAt("topic") ? (topic ? [topic] : undefined) : search.topic,
      decided: (form.get("decided") || undefined) as "open" | "settled" | undefined,
      explained: (form.get("explained") || undefined) as "without" | "only" | undefined,
      target:
        form.get("target") === "next-band" ? undefined : ((form.get("target") ?? undefined) as Target | undefined),
    });
    close();
  }

  return (
    <form onSubmit={apply} className="space-y-4">
      {looksAt("evidence") && (
        <fieldset>
          <legend className="mb-1 text-faint">evidence</legend>
          {GRADES.map((grade) => (
            <label key={grade} className="mr-4 inline-flex min-h-7 items-center gap-1.5">
              <input
                type="checkbox"
                checked={grades.includes(grade)}
                onChange={() => setGrades(GRADES.filter((one) => (one === grade) !== grades.includes(one)))}
              />
              <EvidenceMark grade={grade} />
            </label>
          ))}
        </fieldset>
      )}
      {looksAt("position_from") && (
        <div className="grid grid-cols-2 gap-3">
          <Field {...POSITION} label="position from" name="position_from" defaultValue={search.position_from} />
          <Field {...POSITION} label="to" name="position_to" defaultValue={search.position_to} />
        </div>
      )}
      {looksAt("min_impressions") && (
        <>
          <Field
            label="impressions at least"
            name="min_impressions"
            type="number"
            min={0}
            defaultValue={search.min_impressions ?? site.min_impressions}
            hint="Impressions in the period. Rows with fewer are left out. Large sites choose thousands, small sites far less."
          />
          {site.may_change && (
            <label className="inline-flex min-h-7 items-center gap-1.5">
              <input type="checkbox" name="keep" /> save this for everyone on {site.name}
            </label>
          )}
        </>
      )}
      <Field
        label="section"
        name="section"
        defaultValue={search.section}
        placeholder="/guides/"
        hint="The start of the path, such as /guides/."
      />
      <MoreFilters site={site} search={search} looksAt={looksAt} />
      <MainButton type="submit">Filter</MainButton>
    </form>
  );
}

type MoreProps = Pick<TopLineProps, "site" | "search"> & { looksAt: (name: string) => boolean };

function MoreFilters({ site, search, looksAt }: MoreProps) {
  const facets = ask.useQuery("get", "/api/sites/{slug}/facets", ofSite(site.slug), { staleTime: 60_000 }).data;
  const largest = useFinding(site.slug, "topics", {}, { enabled: looksAt("topic"), limit: TOPICS });
  const topics = largest.data?.rows.map((one) => one.topic) ?? [];

  return (
    <>
      {facets && (
        <>
          <Choices name="device" label="device" options={facets.devices} stored={search.device} />
          <Choices name="country" label="country" options={facets.countries} stored={search.country} />
          <Choices name="page_type" label="page type" options={facets.page_types} stored={search.page_type} />
          <Choices name="query_group" label="query group" options={facets.query_groups} stored={search.query_group} />
        </>
      )}
      {looksAt("topic") && (
        <>
          <Field
            label="topic"
            name="topic"
            defaultValue={search.topic?.[0]}
            list="topics-known"
            autoComplete="off"
            hint="Queries that belong together: see Topics."
          />
          <datalist id="topics-known">
            {topics.map((one) => (
              <option key={one} value={one} />
            ))}
          </datalist>
        </>
      )}
      {looksAt("decided") && (
        <Choice label="decided" name="decided" defaultValue={search.decided ?? ""}>
          <option value="">or not</option>
          <option value="open">not yet</option>
          <option value="settled">already: moved, dismissed or snoozed</option>
        </Choice>
      )}
      {looksAt("explained") && (
        <Choice label="SERP features above explain it" name="explained" defaultValue={search.explained ?? ""}>
          <option value="">or not</option>
          <option value="without">do not explain it: check the title</option>
          <option value="only">does</option>
        </Choice>
      )}
      {looksAt("target") && (
        <Choice label="target position" name="target" defaultValue={search.target ?? "next-band"}>
          {Object.entries(TARGETS).map(([target, name]) => (
            <option key={target} value={target}>
              {name}
            </option>
          ))}
        </Choice>
      )}
    </>
  );
}

/** Names to choose from; none chosen means all. Hidden where there is nothing to choose. */
function Choices(props: { name: string; label: string; options: string[]; stored: string[] | undefined }) {
  if (props.options.length < 2) return null;
  return (
    <fieldset>
      <legend className="mb-1 text-faint">{props.label}</legend>
      <div className="flex max-h-28 flex-wrap gap-x-4 overflow-auto">
        {props.options.map((option) => (
          <label key={option} className="inline-flex min-h-7 items-center gap-1.5">
            <input type="checkbox" name={props.name} value={option} defaultChecked={props.stored?.includes(option)} />
            {option}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
