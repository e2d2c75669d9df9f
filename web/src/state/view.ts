// The address bar is the state. A view has the same field names in the address, the API and the core; defaults are left out.
import { CATALOG, FIELDS, SUMS } from "../api/catalog.generated";
import type { paths } from "../api/schema.generated";

/** The request to a site, as the API takes it. */
export type ViewOptions = NonNullable<paths["/api/sites/{slug}/changes"]["get"]["parameters"]["query"]>;
export type FindingName = keyof typeof CATALOG;
/** The lists of a place, in order; the first opens by default. */
export const findingsOf = (place: string): FindingName[] =>
  (Object.keys(CATALOG) as FindingName[])
    .filter((name) => CATALOG[name].place === place)
    .sort((one, other) => CATALOG[one].rank - CATALOG[other].rank);
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
export const GRADES: Grade[] = [...FIELDS.evidence.choices];
export const SURE: Grade[] = ["firm", "likely"];
/** What is listed where nothing is firm or likely. */
export const POSSIBLE: Grade[] = ["possible", "too little data"];
export const isSure = (grade: string | null | undefined): boolean => SURE.some((one) => one === grade);
export const STATES = FIELDS.state.choices;

export const LENSES = ["low-ctr", "striking-distance", "outperformers", "query-page-mismatch"] as const;
/** Whether a finding grades rows, whose rows with too little data are not called findings. */
export const isLens = (finding: FindingName | undefined): boolean => LENSES.some((lens) => lens === finding);

export type Listed = "row" | "query" | "page";
/** What such a finding lists. */
export const LISTED: Record<Listed, string> = { row: "queries × pages", query: "queries", page: "pages" };

export type OnPage = Known<"on_page">[number];
export type Action = Known<"action">[number];
export type Mention = Known<"mention">[number];
export type Fault = Known<"fault">[number];
export const ON_PAGE = FIELDS.on_page.choices;

/** The page and query of a row's key; 0 means all. */
export function rowSubject(key: string): { page: number | null; query: number | null } {
  const [page, query] = key.split("-").map((id) => Number(id) || null);
  return { page: page ?? null, query: query ?? null };
}

type Field = keyof typeof FIELDS;
type Described = {
  kind: "day" | "count" | "number" | "text" | "texts" | "choice" | "choices";
  choices?: readonly string[];
};
const DAY = /^\d{4}-\d\d-\d\d$/;
const TEXT_MAX = 500;
const TEXTS_MAX = 250;
/** How to read a field of an address, which anyone may have written; undefined for an invalid value. */
const READERS: Record<Described["kind"], (value: unknown, choices: readonly string[]) => unknown> = {
  day: (value) => (typeof value === "string" && DAY.test(value) ? value : undefined),
  count: (value) => (typeof value === "number" && value >= 0 ? Math.round(value) : undefined),
  number: (value) => (typeof value === "number" && value >= 0 ? value : undefined),
  text: (value) => (value == null || value === "" ? undefined : String(value).slice(0, TEXT_MAX)),
  texts: (value) => some(Array.isArray(value) ? value.filter((one) => typeof one === "string" && one !== "") : []),
  choice: (value, choices) => choices.find((one) => one === value),
  choices: (value, choices) => some(Array.isArray(value) ? choices.filter((one) => value.includes(one)) : []),
};
const some = (values: string[]) => (values.length ? values.slice(0, TEXTS_MAX) : undefined);

export type View = { [Name in Field]?: NonNullable<ViewOptions[Name]> };

// What a view is of, and against what: no filter on its rows.
const NOT_FILTERS: readonly Field[] = [
  ...(["first", "last", "compare", "brand", "branded", "target", "device", "country"] as const),
  ...(["by", "level", "measure", "state"] as const),
];
/** All filters on rows, removed. */
export const NO_FILTERS: { [Name in Field]?: undefined } = Object.fromEntries(
  (Object.keys(FIELDS) as Field[]).filter((name) => !NOT_FILTERS.includes(name)).map((name) => [name, undefined]),
);

/** The request about one page, query or clash: what a page's account depends on, without filters on rows. */
export const ofSubject = (options: ViewOptions): ViewOptions =>
  Object.fromEntries(Object.entries(options).filter(([name]) => SUBJECT.some((one) => one === name)));
const SUBJECT = ["first", "last", "brand", ...CATALOG.pages.makes] as const;

const known = <Read extends object>(read: Read): Read =>
  Object.fromEntries(Object.entries(read).filter(([, value]) => value !== undefined)) as Read;
const isOne = <Value extends string>(choices: readonly Value[], value: unknown) => choices.find((one) => one === value);

export function readView(values: Record<string, unknown>, names = Object.keys(FIELDS) as Field[]): View {
  const read = (name: Field) => {
    const field: Described = FIELDS[name];
    return READERS[field.kind](values[name], field.choices ?? []);
  };
  return known(Object.fromEntries(names.map((name) => [name, read(name)]))) as View;
}

/** The sort order of a list, and its current row. */
export type ListSearch = View & { finding?: FindingName; sort?: string; up?: true; row?: string };

/** The address of a place that lists findings; the first of them is the default. */
export function readList(values: Record<string, unknown>, findings: readonly FindingName[]): ListSearch {
  const finding = isOne(findings, values.finding) ?? findings[0];
  const sorts = finding ? CATALOG[finding].columns.filter((one) => one.sorts).map((one) => one.name) : [];
  return known({
    ...readView(values),
    finding: finding === findings[0] ? undefined : finding,
    sort: isOne<string>(sorts, values.sort),
    up: values.up === true ? (true as const) : undefined,
    row: /^(\d+|[0-9a-f]{16})(-(\d+|[0-9a-f]{16}))*$/.test(String(values.row)) ? String(values.row) : undefined,
  });
}

/** The address of a place with sums. */
export const readSums = (values: Record<string, unknown>): View => readView(values, [...SUMS]);
/** `of`: the current page among those that rank for the query. */
export type QuerySearch = View & { query?: number; of?: number };

const idOf = (value: unknown) => (typeof value === "number" && value >= 0 ? value : undefined);

/** The address of one query's own view. */
export function readQuery(values: Record<string, unknown>): QuerySearch {
  return known({ ...readSums(values), query: idOf(values.query), of: idOf(values.of) });
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

/** The addresses of Help and Reports. */
export type HelpSearch = { page?: string };
export const readHelp = (search: Record<string, unknown>): HelpSearch =>
  typeof search.page === "string" ? { page: search.page } : {};
export type ReportsSearch = { view?: "templates"; template?: number; report?: number };
export const readReports = (values: Record<string, unknown>): ReportsSearch => ({
  ...(values.view === "templates" ? { view: values.view } : {}),
  ...(typeof values.template === "number" ? { template: values.template } : {}),
  ...(typeof values.report === "number" ? { report: values.report } : {}),
});
