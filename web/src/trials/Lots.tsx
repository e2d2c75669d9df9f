// The effect among the placebo effects: a row of ticks with one mark. Above it test and control pages, week by week, as two
// lines, each relative to its mean of the weeks before.
import type { Schemas } from "../api/client";
import { count, day } from "../shared/format";
import { useWidth } from "../shared/useWidth";
import { effectWords } from "./words";

type Verdict = Schemas["Verdict"];
const HEIGHT = 58;
const EDGE = 14;

export function Lots({ verdict, measure }: { verdict: Verdict; measure: string }) {
  const [box, width] = useWidth<HTMLDivElement>();
  const { effect, lots } = verdict;
  if (effect == null || lots.length === 0) return null;
  const most = Math.max(...lots.map(Math.abs), Math.abs(effect), 0.01);
  const x = (value: number) => EDGE + ((value + most) / (2 * most)) * (width - 2 * EDGE);
  const words = `The effect is ${effectWords(effect, measure)}; placed on others, half lie between ${effectWords(lots[Math.floor(lots.length / 4)], measure)} and ${effectWords(lots[Math.floor((3 * lots.length) / 4)], measure)}.`;
  return (
    <div ref={box}>
      <svg width={width} height={HEIGHT} role="img" aria-label={words}>
        <line x1={EDGE} x2={width - EDGE} y1={34} y2={34} stroke="var(--rule)" />
        {lots.map((one, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: ticks are alike
          <line key={at} x1={x(one)} x2={x(one)} y1={24} y2={34} stroke="var(--faint)" strokeOpacity={0.35} />
        ))}
        <line x1={x(0)} x2={x(0)} y1={20} y2={40} stroke="var(--strong-rule)" />
        <text x={x(0)} y={52} textAnchor="middle" className="fill-faint text-axis">
          none
        </text>
        <path d={`M${x(effect)} 22l-5 -9h10z`} fill={effect > 0 ? "var(--spruce)" : "var(--rust)"} />
        <text
          x={Math.min(Math.max(x(effect), 30), width - 30)}
          y={10}
          textAnchor="middle"
          className="fill-ink text-axis"
        >
          {effectWords(effect, measure)}
        </text>
      </svg>
      <p className="text-faint text-xs">{words}</p>
    </div>
  );
}

type Week = Schemas["TrialWeek"];
const ROOM = 120;

export function WeeksOfTrial({ weeks, firstDay }: { weeks: Week[]; firstDay: string }) {
  const [box, width] = useWidth<HTMLDivElement>();
  const before = weeks.filter((one) => one.first < firstDay);
  const mean = (of: "changed" | "controls") =>
    Math.max(before.reduce((sum, one) => sum + one[of], 0) / Math.max(before.length, 1), 1);
  if (weeks.length < 2) return <p className="text-faint">No whole week yet.</p>;
  const base = { changed: mean("changed"), controls: mean("controls") };
  const share = (week: Week, of: "changed" | "controls") => week[of] / base[of];
  const most = Math.max(1.2, ...weeks.flatMap((one) => [share(one, "changed"), share(one, "controls")]));
  const x = (at: number) => 34 + (at * (width - 44)) / (weeks.length - 1);
  const y = (value: number) => ROOM - 22 - (value / most) * (ROOM - 34);
  const line = (of: "changed" | "controls") =>
    weeks.map((one, at) => `${at ? "L" : "M"}${x(at)} ${y(share(one, of))}`).join("");
  const begins = weeks.findIndex((one) => one.first >= firstDay);
  return (
    <div ref={box}>
      <svg
        width={width}
        height={ROOM}
        role="img"
        aria-label={`Weeks of test pages compared with control pages; 1 is the mean of the weeks before. ${weeks
          .map((one) => `${day(one.first)}: ${count(one.changed)} and ${count(one.controls)}`)
          .join("; ")}`}
      >
        <line x1={30} x2={width} y1={y(1)} y2={y(1)} stroke="var(--rule)" />
        <text x={26} y={y(1) + 4} textAnchor="end" className="fill-faint text-axis">
          1
        </text>
        {begins > 0 && (
          <line
            x1={x(begins - 0.5)}
            x2={x(begins - 0.5)}
            y1={6}
            y2={ROOM - 18}
            stroke="var(--ink)"
            strokeDasharray="2 3"
          />
        )}
        <path d={line("controls")} fill="none" stroke="var(--faint)" strokeDasharray="5 4" strokeWidth={1.5} />
        <path d={line("changed")} fill="none" stroke="var(--ink)" strokeWidth={2} />
        <text x={34} y={ROOM - 4} className="fill-faint text-axis">
          {day(weeks[0]?.first ?? "")}
        </text>
        <text x={width} y={ROOM - 4} textAnchor="end" className="fill-faint text-axis">
          {day(weeks.at(-1)?.first ?? "")}
        </text>
      </svg>
      <p className="text-faint text-xs">
        Line: test pages. Dashed line: control pages. Each week is relative to the mean of the weeks before (1). The
        vertical line is the change.
      </p>
    </div>
  );
}
