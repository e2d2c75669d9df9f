const DAY_MS = 86_400_000;
const iso = (time: number) => new Date(time).toISOString().slice(0, 10);

/** Whole weeks that end with the last whole week of data. */
export function lastWeeks(lastDay: string, weeks: number): { from: string; to: string } {
  const last = Date.parse(`${lastDay}T00:00:00Z`);
  const sunday = last - (new Date(last).getUTCDay() % 7) * DAY_MS;
  return { from: iso(sunday - (7 * weeks - 1) * DAY_MS), to: iso(sunday) };
}
