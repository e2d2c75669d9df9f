// Measures now, before, and their change, each in its own unit.
import type { Schemas } from "../api/client";
import { count, place, share } from "./format";

type Measure = Schemas["MeasureCompared"];
const WORDS: Record<Measure["name"], string> = {
  clicks: "clicks",
  impressions: "impressions",
  ctr: "CTR",
  position: "position",
  sessions: "visits",
  bounce_rate: "bounce rate",
  conversions: "conversions",
  value: "value",
};
const isShare = (name: Measure["name"]) => name === "ctr" || name === "bounce_rate";
const LESS_IS_BETTER = ["position", "bounce_rate"];

function written(name: Measure["name"], value: number | null): string {
  if (isShare(name)) return share(value);
  return name === "position" ? place(value) : count(value);
}

/** The change of a count in per cent, of a rate in points, of a position in positions; and whether it is for the worse. */
function changed(one: Measure): [string, string] {
  if (one.change === null) return ["", ""];
  const unit = one.change_share !== null ? " %" : isShare(one.name) ? " pts" : "";
  const amount = one.change_share !== null ? one.change_share * 100 : isShare(one.name) ? one.change * 100 : one.change;
  const written = one.change_share !== null ? count(Math.abs(amount)) : place(Math.abs(amount));
  if (Number(written.replace(/\s/g, "")) === 0) return [`0${unit}`, "text-faint"];
  const worse = LESS_IS_BETTER.includes(one.name) ? amount > 0 : amount < 0;
  return [`${amount > 0 ? "+" : "−"}${written}${unit}`, worse ? "text-rust" : "text-spruce"];
}

export function MeasureCards({ measures, compared }: { measures: Measure[]; compared: boolean }) {
  return (
    <div className="overflow-x-auto">
      <table className="w-full whitespace-nowrap text-right">
        <thead className="text-faint text-xs">
          <tr>
            <th scope="col" aria-label="days" />
            {measures.map((one) => (
              <th key={one.name} scope="col" className="pl-2.5 font-normal">
                {WORDS[one.name]}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          <tr>
            <th scope="row" className="text-left font-normal text-faint text-xs">
              now
            </th>
            {measures.map((one) => (
              <td key={one.name} className="pl-2.5 font-semibold font-serif text-lead">
                {written(one.name, one.now)}
              </td>
            ))}
          </tr>
          {compared && (
            <tr className="border-rule border-t">
              <th scope="row" className="text-left font-normal text-faint text-xs">
                before
              </th>
              {measures.map((one) => (
                <td key={one.name}>{written(one.name, one.before)}</td>
              ))}
            </tr>
          )}
          {compared && (
            <tr className="border-rule border-t">
              <th scope="row" className="text-left font-normal text-faint text-xs">
                change
              </th>
              {measures.map((one) => {
                const [words, tone] = changed(one);
                return (
                  <td key={one.name} className={tone}>
                    {words}
                  </td>
                );
              })}
            </tr>
          )}
        </tbody>
      </table>
    </div>
  );
}
