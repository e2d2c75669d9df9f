// Numbers and dates as the reader's locale writes them. What does not exist is an en dash, never 0.
export const NONE = "–";

const whole = new Intl.NumberFormat(undefined, { maximumFractionDigits: 0 });
const tenth = new Intl.NumberFormat(undefined, { minimumFractionDigits: 1, maximumFractionDigits: 1 });
const percents = [0, 1, 2, 3].map(
  (digits) =>
    new Intl.NumberFormat(undefined, { style: "percent", minimumFractionDigits: digits, maximumFractionDigits: digits }),
);
const signed = new Intl.NumberFormat(undefined, { maximumFractionDigits: 0, signDisplay: "exceptZero" });
const date = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", year: "numeric", timeZone: "UTC" });

type Maybe = number | null | undefined;

export const count = (value: Maybe) => (value == null ? NONE : whole.format(value));
export const change = (value: Maybe) => (value == null ? NONE : signed.format(value).replace("-", "−"));
export const place = (value: Maybe) => (value == null ? NONE : tenth.format(value));
export const day = (iso: string) => date.format(new Date(`${iso}T00:00:00Z`));

/** A share with enough digits to tell small ones apart: 12 %, 3.4 %, 0.27 %. */
export function share(value: Maybe): string {
  if (value == null) return NONE;
  const digits = value === 0 || value >= 0.1 ? 1 : value >= 0.01 ? 1 : value >= 0.001 ? 2 : 3;
  return percents[digits]?.format(value) ?? NONE;
}

/** The path of an address, which is what tells pages of one site apart. */
export function path(address: string): string {
  try {
    const url = new URL(address);
    return `${url.pathname}${url.search}` || "/";
  } catch {
    return address;
  }
}
