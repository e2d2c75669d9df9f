// Why clicks changed: the parts as steps on one line from before to after, with the sentence that says the same.
import type { Schemas } from "../api/client";
import { count, change as signed } from "../shared/format";

const PARTS = [
  ["shown", "impressions"],
  ["rank_or_demand", "ranking or demand"],
  ["device_mix", "devices"],
  ["rank", "ranking"],
  ["snippet", "snippet"],
  ["new_queries", "new queries"],
  ["lost_queries", "lost queries"],
  ["anonymised", "anonymised"],
] as const;

export function ChangeSteps({ change }: { change: Schemas["ChangeSummary"] }) {
  let at = change.clicks_before;
  const steps = PARTS.map(([name, label]) => {
    const from = at;
    at += change[name];
    return { name, label, by: change[name], from, to: at };
  }).filter((step) => Math.round(step.by) !== 0);
  const ends = [change.clicks_before, change.clicks_after, ...steps.map((step) => step.to)];
  const low = Math.min(...ends) * 0.9;
  const width = Math.max(...ends) - low || 1;
  const left = (value: number) => `${((value - low) / width) * 100}%`;
  return (
    <>
      <p>{change.sentences.join(" ")}</p>
      <div className="mt-2 grid grid-cols-[5.5rem_1fr_3.5rem] items-center gap-x-2 gap-y-1 text-xs" aria-hidden="true">
        <Line
          label="before"
          value={count(change.clicks_before)}
          left={left(change.clicks_before)}
          right={left(change.clicks_before)}
          tone="bg-faint"
        />
        {steps.map((step) => (
          <Line
            key={step.name}
            label={step.label}
            value={signed(step.by)}
            left={left(Math.min(step.from, step.to))}
            right={left(Math.max(step.from, step.to))}
            tone={step.by < 0 ? "bg-rust" : "bg-spruce"}
          />
        ))}
        <Line
          label="now"
          value={count(change.clicks_after)}
          left={left(change.clicks_after)}
          right={left(change.clicks_after)}
          tone="bg-ink"
        />
      </div>
    </>
  );
}

function Line(props: { label: string; value: string; left: string; right: string; tone: string }) {
  return (
    <>
      <span className="text-faint">{props.label}</span>
      <span className="relative h-2.5 bg-shade">
        <span
          className={`absolute inset-y-0 min-w-[3px] ${props.tone}`}
          style={{ left: props.left, width: `calc(${props.right} - ${props.left})` }}
        />
      </span>
      <span className="whitespace-nowrap text-right">{props.value}</span>
    </>
  );
}
