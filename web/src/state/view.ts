// The address bar is the state. A view has the same field names in the address, the API and the core; defaults are left out.
import { CATALOG } from "../api/catalog.generated";
import type { paths } from "../api/schema.generated";

/** The request to a site, as the API takes it. */
export type ViewOptions = NonNullable<paths["/api/sites/{slug}/changes"]["get"]["parameters"]["query"]>;
export type FindingName = keyof typeof CATALOG;
type Known<Field extends keyof ViewOptions> = NonNullable<ViewOptions[Field]>;
export type Grade = Known<"evidence">[number];
export type Comparison = Known<"compare">;
export type Target = Known<"target">;

export const TARGETS: Record<Target, string> = {
  "next-band": "the next band: from 20 to 10, from 10 to 3",
  third: "third position",
  first: "first position",
  "three-up": "three positions up",
  "within-strength": "within reach by referring domains",
};
export const COMPARISONS: Record<Comparison, string> = {
  year: "the same weeks last year",
  previous: "the previous period",
  none: "nothing",
};
export const GRADES: Grade[] = ["firm", "likely", "too little data"];
export const SURE: Grade[] = ["firm", "likely"];
export const POSSIBLE: Grade[] = ["too little data"];
export const STATES = ["open", "to do", "in progress", "done", "measured", "dismissed"] as const;

export const LENSES = ["low-ctr", "striking-distance", "outperformers", "query-page-mismatch"] as const;
/** Whether a finding grades rows, whose rows with too little data are not called findings. */
export const isLens = (finding: FindingName | undefined) => LENSES.some((lens) => lens === finding);

export type Listed = "row" | "query" | "page";
/** What such a finding lists. */
export const LISTED: Record<Listed, string> = { row: "queries × pages", query: "queries", page: "pages" };

export type OnPage = Known<"on_page">[number];
export type Problem = Known<"problem">[number];
export type Action = Known<"action">[number];
export type Mention = Known<"mention">[number];
export type Fault = Known<"fault">[number];
export const ON_PAGE: OnPage[] = ["missing", "other forms", "low on the page", "on the page"];

/** The page and query of a row's key; 0 means all. */
export function rowSubject(key: string): { page: number | null; query: number | null } {
  const [page, query] = key.split("-").map((id) => Number(id) || null);
  return { page: page ?? null, query: query ?? null };
}

type Reader<Value> = (values: unknown) => Value | undefined;
const oneOf =
  <Value extends string>(known: readonly Value[]): Reader<Value> =>
  (values) =>
    known.find((item) => item === values);
const day: Reader<string> = (values) =>
  typeof values === "string" && /^\d{4}-\d\d-\d\d$/.test(values) ? values : undefined;
const number: Reader<number> = (values) => (typeof values === "number" && values >= 0 ? values : undefined);
const text: Reader<string> = (values) => (values == null || values === "" ? undefined : String(values).slice(0, 500));
const texts: Reader<string[]> = (values) => {
  const stored = (Array.isArray(values) ? values : [])
    .filter((one) => typeof one === "string" && one !== "")
    .slice(0, 250);
  return stored.length ? (stored as string[]) : undefined;
};
const grades: Reader<Grade[]> = (values) => {
  const stored = Array.isArray(values) ? GRADES.filter((grade) => values.includes(grade)) : [];
  return stored.length ? stored : undefined;
};

/** How to read each field of an address, which anyone may have written; invalid values are ignored. */
const FIELDS = {
  first: day,
  last: day,
  compare: oneOf(Object.keys(COMPARISONS) as Comparison[]),
  device: texts,
  country: texts,
  section: text,
  page_type: texts,
  query_group: texts,
  topic: texts,
  min_impressions: (values: unknown) => (number(values) === undefined ? undefined : Math.round(Number(values))),
  target: oneOf(Object.keys(TARGETS) as Target[]),
  text,
  evidence: grades,
  position_from: number,
  position_to: number,
  decided: oneOf(["open", "settled"] as const),
  explained: oneOf(["without", "only"] as const),
  on_page: (values: unknown) => texts(values)?.filter((one): one is OnPage => ON_PAGE.some((known) => known === one)),
  problem: (values: unknown) => texts(values) as Problem[] | undefined,
  state: oneOf(STATES),
  page: (values: unknown) => (typeof values === "string" && /^(\/|https?:)/.test(values) ? text(values) : undefined),
  phrase: texts,
  forms: oneOf(["exact"] as const),
  action: (values: unknown) => texts(values) as Action[] | undefined,
  mention: (values: unknown) => texts(values) as Mention[] | undefined,
  fault: (values: unknown) => texts(values) as Fault[] | undefined,
  by: oneOf(Object.keys(LISTED) as Listed[]),
} satisfies { [Field in keyof ViewOptions]?: Reader<ViewOptions[Field]> };
export type View = { [Field in keyof typeof FIELDS]?: NonNullable<ReturnType<(typeof FIELDS)[Field]>> };

/** Days and the part of the site: the fields of sums, which do not judge rows. */
const OF_SUMS: (keyof View)[] = [
  "first",
  "last",
  "compare",
  "device",
  "country",
  "section",
  "page_type",
  "query_group",
  "topic",
];
// Addresses copied or saved before field names were the same everywhere.
const OLD: Record<string, keyof View> = {
  from: "first",
  to: "last",
  shown: "min_impressions",
  above: "position_from",
  below: "position_to",
  type: "page_type",
  group: "query_group",
};

const known = <Read extends object>(read: Read): Read =>
  Object.fromEntries(Object.entries(read).filter(([, value]) => value !== undefined)) as Read;

export function readView(values: Record<string, unknown>, names = Object.keys(FIELDS) as (keyof View)[]): View {
  const named = { ...Object.fromEntries(Object.entries(values).map(([name, value]) => [OLD[name] ?? name, value])) };
  return known(Object.fromEntries(names.map((name) => [name, FIELDS[name](named[name])]))) as View;
}

/** The sort order of a list, and its current row. */
export type ListSearch = View & { finding?: FindingName; sort?: string; up?: true; row?: string };
// The names of a picked row from before all places used one.
const OLD_ROWS = ["page", "query", "move"];

/** The address of a place that lists findings; the first of them is the default. */
export function readList(values: Record<string, unknown>, findings: readonly FindingName[]): ListSearch {
  const stored = { ...values, finding: values.finding ?? OLD_VIEWS[String(values.view)] ?? values.lens };
  const finding = oneOf(findings)(stored.finding) ?? findings[0];
  const sorts = finding ? CATALOG[finding].columns.filter((one) => one.sorts).map((one) => one.name) : [];
  const row = [values.row, ...OLD_ROWS.map((name) => values[name])].find((one) => one !== undefined);
  return known({
    ...readView(values),
    finding: finding === findings[0] ? undefined : finding,
    sort: oneOf<string>(sorts)(values.sort),
    up: values.up === true ? (true as const) : undefined,
    row: /^(\d+|[0-9a-f]{16})(-(\d+|[0-9a-f]{16}))*$/.test(String(row)) ? String(row) : undefined,
  });
}
const OLD_VIEWS: Record<string, FindingName> = { groups: "query-groups", folds: "overlapping-pages" };

/** The address of a place with sums. */
export const readSums = (values: Record<string, unknown>): View => readView(values, OF_SUMS);
/** `of`: the current page among those that rank for the query. */
export type QuerySearch = View & { query?: number; of?: number };

/** The address of one query's own view. */
export function readQuery(values: Record<string, unknown>): QuerySearch {
  return known({ ...readSums(values), query: number(values.query), of: number(values.of ?? values.page) });
}

/** A list's request to the API: with a comparison by default, and only rows with evidence for findings that grade. */
export function optionsOf(search: ListSearch): ViewOptions {
  // An address also has parts for the browser alone (row, query, tab); the server rejects unknown parameters.
  const view = Object.fromEntries(Object.entries(search).filter(([name]) => name in FIELDS)) as View;
  return { ...view, compare: view.compare ?? "year" };
}
export function lensOptions(search: ListSearch): ViewOptions {
  return { ...optionsOf(search), evidence: search.evidence ?? SURE };
}
