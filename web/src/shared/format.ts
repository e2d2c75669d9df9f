// Numbers and dates as in the server's sentences: spaces between thousands, a point before decimals. An unknown value
// is an en dash, never 0.
export const NONE = "–";
const SPACE = "\u00a0"; // between thousands: a narrow one is not seen at the size of a table
const THIN = "\u202f"; // before a percent sign; prevents a line break

// Each person can choose another language of numbers and dates, and another time zone (their account).
let language = "";
let timeZone: string | undefined;
const rewritten: (() => void)[] = [];
/** A format of the chosen language, created again when it changes. */
function chosen<Format>(make: (locale: string) => Format): () => Format {
  let stored = make("en-GB");
  rewritten.push(() => {
    stored = make(language || "en-GB");
  });
  return () => stored;
}
export function writeFor(preferences: { language: string; time_zone: string }): void {
  if (preferences.language.replace("_", "-") === language && (preferences.time_zone || undefined) === timeZone) return;
  language = preferences.language.replace("_", "-");
  timeZone = preferences.time_zone || undefined;
  for (const make of rewritten) make();
}

const written = (options: Intl.NumberFormatOptions) => {
  const format = chosen((locale) => new Intl.NumberFormat(locale, options));
  return (value: number) => {
    const text = format().format(value).replace("-", "−");
    return language ? text : text.replaceAll(",", SPACE).replace("%", `${THIN}%`);
  };
};
const whole = written({ maximumFractionDigits: 0 });
const tenth = written({ minimumFractionDigits: 1, maximumFractionDigits: 1 });
const percents = [0, 1, 2, 3].map((digits) =>
  written({ style: "percent", minimumFractionDigits: digits, maximumFractionDigits: digits }),
);
const signed = written({ maximumFractionDigits: 0, signDisplay: "exceptZero" });
const ofDay = { day: "numeric", month: "short", year: "numeric" } as const;
const date = chosen((locale) => new Intl.DateTimeFormat(locale, { ...ofDay, timeZone: "UTC" }));
const when = chosen(
  (locale) => new Intl.DateTimeFormat(locale, { ...ofDay, hour: "2-digit", minute: "2-digit", timeZone }),
);
const clock = chosen((locale) => new Intl.DateTimeFormat(locale, { timeStyle: "medium", timeZone }));
const month = chosen((locale) => new Intl.DateTimeFormat(locale, { month: "short", timeZone: "UTC" }));
const monthOfYear = chosen(
  (locale) => new Intl.DateTimeFormat(locale, { month: "short", year: "numeric", timeZone: "UTC" }),
);
// British English abbreviates "Sept"; the server's sentences write Sep.
const short = (text: string) => (language ? text : text.replace("Sept", "Sep"));

type Maybe = number | null | undefined;

export const count = (value: Maybe) => (value == null ? NONE : whole(value));
export const plural = (number: number, one: string, more = `${one}s`) => (number === 1 ? one : more);
/** "1 page", "2 pages". */
export const many = (number: number, one: string, more?: string) => `${count(number)} ${plural(number, one, more)}`;
export const change = (value: Maybe) => (value == null ? NONE : signed(value));
export const place = (value: Maybe) => (value == null ? NONE : tenth(value));
export const day = (iso: string) => short(date().format(new Date(`${iso}T00:00:00Z`)));
export const moment = (iso: string) => short(when().format(new Date(iso)));
export const timeOfDay = (iso: string) => clock().format(new Date(iso));
/** A month by its name; a January with its year. */
export const monthName = (at: Date) => short((at.getUTCMonth() === 0 ? monthOfYear() : month()).format(at));

const MONTHS = "jan feb mar apr may jun jul aug sep oct nov dec".split(" ");

/** A typed date – 16 Aug 2026, 16.8.2026, 16/8/2026, Aug 16 2026, 2026-08-16 – as ISO; undefined where it is not one. */
export function dayTyped(typed: string): string | undefined {
  const text = typed.trim().toLowerCase().replaceAll(",", " ");
  const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(text);
  const numbers = /^(\d{1,2})[./-](\d{1,2})[./-](\d{4})$/.exec(text);
  const words = /^(\d{1,2})\.? *([a-z]{3})[a-z]*\.? +(\d{4})$/.exec(text);
  const american = /^([a-z]{3})[a-z]*\.? *(\d{1,2}) +(\d{4})$/.exec(text);
  const month = (word = "") => String(MONTHS.indexOf(word) + 1);
  const [year, ofYear, ofMonth] = iso
    ? iso.slice(1)
    : numbers
      ? [numbers[3], numbers[2], numbers[1]]
      : words
        ? [words[3], month(words[2]), words[1]]
        : american
          ? [american[3], month(american[1]), american[2]]
          : [];
  if (!year || !ofYear || !ofMonth) return undefined;
  const answer = `${year}-${ofYear.padStart(2, "0")}-${ofMonth.padStart(2, "0")}`;
  const read = new Date(`${answer}T00:00:00Z`);
  return Number.isNaN(read.getTime()) || read.toISOString().slice(0, 10) !== answer ? undefined : answer;
}

/** A share with enough digits for small values: 12 %, 3.4 %, 0.27 %. */
export function share(value: Maybe): string {
  if (value == null) return NONE;
  const digits = value === 0 ? 0 : value >= 0.01 ? 1 : value >= 0.001 ? 2 : 3;
  return percents[digits]?.(value) ?? NONE;
}

/** A probability as people say it, short enough for a cell. */
export function oneIn(probability: number): string {
  if (probability < 0.01) return "under 1 in 100";
  if (probability > 0.95) return "over 9 in 10";
  return probability < 0.4 ? `1 in ${Math.round(1 / probability)}` : `${Math.round(10 * probability)} in 10`;
}

/** The path of an address, which identifies a page within its site. */
export function path(address: string): string {
  try {
    const url = new URL(address);
    return `${url.pathname}${url.search}` || "/";
  } catch {
    return address;
  }
}

/** A page by its path; by its whole address where another host has the same path. */
export function shorten(address: string, others: string[]): string {
  const twin = others.some((one) => one !== address && path(one) === path(address));
  return twin ? address.replace(/^https?:\/\//, "") : path(address);
}
