// Formats of test effects, as in the server's sentences.
import { place } from "../shared/format";

export type Measure = "clicks" | "impressions" | "ctr" | "position";
export const MEASURES: Record<Measure, string> = {
  clicks: "clicks",
  impressions: "impressions",
  ctr: "CTR",
  position: "position",
};
export const SHORTLY = { "before-after": "before/after test", randomised: "randomised test" };
export const DESIGNS = {
  "before-after": "before/after test, compared with control pages",
  randomised: "randomised test: half of them are changed",
};

/** A difference of logarithms as a percentage, or positions. */
export function effectWords(effect: number | null | undefined, measure: string): string {
  if (effect == null) return "–";
  if (measure === "position") return `${effect > 0 ? "+" : ""}${place(effect)}`;
  const ratio = Math.exp(effect);
  if (ratio >= 3) return `${ratio.toFixed(1)} ×`;
  const share = Math.round(100 * (ratio - 1));
  return `${share > 0 ? "+" : share < 0 ? "−" : ""}${Math.abs(share)} %`;
}
