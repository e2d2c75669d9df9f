import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { facetsQuery } from "../api/hooks";
import { EvidenceMark, Field, MainButton } from "../shared/parts";
import { type Grade, SURE, TARGETS, type Target } from "../state/search";
import type { TopLineProps } from "./TopLine";
import { useKeep } from "./useKeep";

const GRADES: Grade[] = ["firm", "likely", "thin"];
const chosen = (form: FormData, name: string) => {
  const held = form.getAll(name).map(String);
  return held.length ? held : undefined;
};
const amount = (text: FormDataEntryValue | null) => (text === null || text === "" ? undefined : Number(text));

export function FilterForm({ site, search, change, close, sums }: TopLineProps & { close: () => void }) {
  const keep = useKeep(site);
  const [grades, setGrades] = useState<Grade[]>(search.evidence ?? SURE);
  const facets = useQuery(facetsQuery(site.slug)).data;

  async function apply(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const shown = amount(form.get("shown"));
    const kept = form.get("keep") && shown !== undefined && (await keep({ min_impressions: shown }));
    change({
      evidence: grades.length === 0 || grades.join() === SURE.join() ? undefined : grades,
      above: amount(form.get("above")),
      below: amount(form.get("below")),
      shown: kept || shown === site.min_impressions ? undefined : shown,
      device: chosen(form, "device"),
      country: chosen(form, "country"),
      section: String(form.get("section") ?? "").trim() || undefined,
      type: chosen(form, "type"),
      group: chosen(form, "group"),
      decided: (form.get("decided") || undefined) as "open" | "settled" | undefined,
      target: form.get("target") === "next-band" ? undefined : (form.get("target") as Target),
    });
    close();
  }

  return (
    <form onSubmit={apply} className="space-y-4">
      {!sums && (
        <>
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
          <div className="grid grid-cols-2 gap-3">
            <Field
              label="position from"
              name="above"
              type="number"
              min={1}
              max={100}
              step={0.1}
              defaultValue={search.above}
            />
            <Field label="to" name="below" type="number" min={1} max={100} step={0.1} defaultValue={search.below} />
          </div>
          <Field
            label="shown at least"
            name="shown"
            type="number"
            min={0}
            defaultValue={search.shown ?? site.min_impressions}
            hint="Times in the period. Rows below the floor are not looked at: large sites choose thousands, small ones far less."
          />
          {site.may_change && (
            <label className="inline-flex min-h-7 items-center gap-1.5">
              <input type="checkbox" name="keep" /> keep it as the floor of {site.name}
            </label>
          )}
        </>
      )}
      <Field
        label="section"
        name="section"
        defaultValue={search.section}
        placeholder="/guides/"
        hint="The beginning of the path of pages."
      />
      {facets && (
        <>
          <Choices name="device" label="device" options={facets.devices} held={search.device} />
          <Choices name="country" label="country" options={facets.countries} held={search.country} />
          <Choices name="type" label="page type" options={facets.page_types} held={search.type} />
          <Choices name="group" label="query group" options={facets.query_groups} held={search.group} />
        </>
      )}
      {!sums && (
        <>
          <label className="block">
            <span className="mb-0.5 block text-faint">decided</span>
            <select
              name="decided"
              defaultValue={search.decided ?? ""}
              className="w-full border border-strong-rule bg-sheet px-2 py-1"
            >
              <option value="">or not</option>
              <option value="open">not yet</option>
              <option value="settled">already: a move, left alone or set aside</option>
            </select>
          </label>
          <label className="block">
            <span className="mb-0.5 block text-faint">a better place means</span>
            <select
              name="target"
              defaultValue={search.target ?? "next-band"}
              className="w-full border border-strong-rule bg-sheet px-2 py-1"
            >
              {Object.entries(TARGETS).map(([target, name]) => (
                <option key={target} value={target}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        </>
      )}
      <MainButton type="submit">Filter</MainButton>
    </form>
  );
}

/** Names to choose from; none chosen means all. Nothing is shown where there is nothing to choose. */
function Choices(props: { name: string; label: string; options: string[]; held: string[] | undefined }) {
  if (props.options.length < 2) return null;
  return (
    <fieldset>
      <legend className="mb-1 text-faint">{props.label}</legend>
      <div className="flex max-h-28 flex-wrap gap-x-4 overflow-auto">
        {props.options.map((option) => (
          <label key={option} className="inline-flex min-h-7 items-center gap-1.5">
            <input type="checkbox" name={props.name} value={option} defaultChecked={props.held?.includes(option)} />
            {option}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
