import { type FormEvent, useState } from "react";
import { DateField } from "../shared/DateField";
import { day } from "../shared/format";
import { Button, MainButton } from "../shared/parts";
import { lastWeeks } from "../state/period";
import { COMPARISONS, type Comparison } from "../state/view";
import type { TopLineProps } from "./topLineProps";

export function PeriodForm({ site, search, list, change, close }: TopLineProps & { close: () => void }) {
  const [from, setFrom] = useState(search.first ?? list?.period.first ?? "");
  const [to, setTo] = useState(search.last ?? list?.period.last ?? "");
  const first = site.first_day ?? "";
  const last = site.last_day ?? "";
  const usual: [string, { first?: string; last?: string }][] = [
    ["last 4 weeks", lastWeeks(last, 4)],
    ["last 13 weeks", { first: undefined, last: undefined }],
    ["last 26 weeks", lastWeeks(last, 26)],
    ["last 52 weeks", lastWeeks(last, 52)],
    ["all days", { first, last }],
  ];

  // A site may have only totals: then there are no days to choose.
  const byDay = site.spans.length === 0 || list?.period.by_day !== false;

  function choose(event: FormEvent) {
    event.preventDefault();
    change(from <= to ? { first: from, last: to } : { first: to, last: from });
    close();
  }

  return (
    <div className="space-y-4">
      {site.spans.length > 0 && (
        <fieldset>
          <legend className="mb-1 text-faint">totals that were loaded</legend>
          {site.spans.map((span) => (
            <label key={span.first + span.last} className="flex min-h-7 items-center gap-1.5">
              <input
                type="radio"
                name="span"
                checked={list?.period.first === span.first && list.period.last === span.last}
                onChange={() => {
                  change({ first: span.first, last: span.last });
                  close();
                }}
              />
              {day(span.first)} to {day(span.last)}
            </label>
          ))}
        </fieldset>
      )}
      {byDay && (
        <>
          <div className="flex flex-wrap gap-2">
            {usual.map(([name, days]) => (
              <Button
                key={name}
                onClick={() => {
                  change(days);
                  close();
                }}
              >
                {name}
              </Button>
            ))}
          </div>
          <form onSubmit={choose} className="flex items-end gap-2">
            <DateField label="from" value={from} min={first} max={last} required onDay={setFrom} />
            <DateField label="to" value={to} min={first} max={last} required onDay={setTo} />
            <MainButton type="submit">Choose</MainButton>
          </form>
          <p className="text-faint text-xs">
            Data from {day(first)} to {day(last)}
            {site.missing_days > 0 && `, with ${site.missing_days} days missing between`}.
          </p>
        </>
      )}
      <fieldset>
        <legend className="mb-1 text-faint">compared with</legend>
        {(Object.keys(COMPARISONS) as Comparison[]).map((comparison) => (
          <label key={comparison} className="mr-4 inline-flex min-h-7 items-center gap-1.5">
            <input
              type="radio"
              name="compare"
              checked={(search.compare ?? "year") === comparison}
              onChange={() => change({ compare: comparison === "year" ? undefined : comparison })}
            />
            {COMPARISONS[comparison]}
          </label>
        ))}
      </fieldset>
      <p className="text-faint text-xs">
        {byDay ? "" : "Totals are compared with totals of last year, else with the previous ones. "}A year before means
        364 days, so that weekdays meet their like. Month against month misleads: seasons move it.
      </p>
    </div>
  );
}
