const DAY_MS = 86_400_000;
const iso = (time: number) => new Date(time).toISOString().slice(0, 10);

/** Whole weeks that end with the last whole week of data. */
export function lastWeeks(lastDay: string, weeks: number): { first: string; last: string } {
  const end = Date.parse(`${lastDay}T00:00:00Z`);
  const sunday = end - (new Date(end).getUTCDay() % 7) * DAY_MS;
  return { first: iso(sunday - (7 * weeks - 1) * DAY_MS), last: iso(sunday) };
}
