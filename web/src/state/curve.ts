/** Lines of "position CTR %" as points; null when a line is invalid. */
export function readCurve(text: string): { position: number; ctr: number }[] | null {
  const points = text
    .split("\n")
    .filter((line) => line.trim())
    .map((line) => line.match(/^\s*(\d+(?:\.\d+)?)[\s:]+(\d+(?:\.\d+)?)\s*%?\s*$/));
  if (points.length < 2 || points.some((point) => point === null)) return null;
  return points.map((point) => ({ position: Number(point?.[1]), ctr: Number(point?.[2]) / 100 }));
}
