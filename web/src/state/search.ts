// The address bar is the state: what each place reads from it and writes to it. Defaults are left out of the address.
import type { Schemas } from "../api/client";

export type Lens = Schemas["Rows"]["lens"];
export type Grade = Schemas["Finding"]["evidence"];
export type Sort = Schemas["ListAsked"]["sort"];
export type Comparison = NonNullable<Schemas["ListAsked"]["compare"]>;
export type Target = Schemas["ListAsked"]["target"];

export type QueriesSearch = {
  view?: "groups";
  lens?: Lens;
  from?: string;
  to?: string;
  compare?: Comparison;
  shown?: number;
  target?: Target;
  text?: string;
  evidence?: Grade[];
  above?: number;
  below?: number;
  device?: string[];
  country?: string[];
  section?: string;
  type?: string[];
  group?: string[];
  decided?: "open" | "settled";
  sort?: Sort;
  up?: true;
  row?: string;
};

export const LENSES: Record<Lens, string> = {
  "low-ctr": "Low click-through",
  "striking-distance": "Striking distance",
  outperformers: "Outperformers",
  "off-fit": "Loose or off fit",
};
export const TARGETS: Record<Target, string> = {
  "next-band": "the next band up (20, 10, 3, 1)",
  third: "third place",
  first: "first place",
  "three-up": "three places up",
};
export const COMPARISONS: Record<Comparison, string> = {
  year: "the same weeks last year",
  previous: "the days just before",
  none: "nothing",
};
const GRADES: Grade[] = ["firm", "likely", "thin"];
export const SURE: Grade[] = ["firm", "likely"];
const SORTS: Sort[] = [
  "page",
  "query",
  "change",
  "clicks_before",
  "clicks",
  "impressions",
  "ctr",
  "position",
  "expected_clicks",
  "expected_ctr",
  "shortfall",
  "headroom",
  "at_stake",
  "q_value",
  "evidence",
];

const oneOf = <T extends string>(value: unknown, known: readonly T[]) => known.find((item) => item === value);
const isDay = (value: unknown) => (typeof value === "string" && /^\d{4}-\d\d-\d\d$/.test(value) ? value : undefined);
const texts = (value: unknown) => {
  const held = (Array.isArray(value) ? value : []).filter((one) => typeof one === "string" && one !== "").slice(0, 20);
  return held.length ? (held as string[]) : undefined;
};
const number = (value: unknown) => (typeof value === "number" && value >= 0 ? value : undefined);

const PAGE_SORTS = [
  ...(["page", "gain", "worth", "clicks", "change", "position", "sessions", "impressions", "ctr"] as const),
  ...(["conversions", "value", "snippet", "rank", "unite"] as const),
] as const;
export type PageSort = (typeof PAGE_SORTS)[number];
/** What the addresses of all places have in common. */
export type ScopeSearch = Omit<QueriesSearch, "view" | "lens" | "sort" | "row">;
export type PagesSearch = ScopeSearch & { sort?: PageSort; page?: number };

function readScope(given: Record<string, unknown>): ScopeSearch {
  const { view: _, lens: __, sort: ___, row: ____, ...scope } = readSearch(given);
  return scope;
}

/** The address of Pages. */
export function readPagesSearch(given: Record<string, unknown>): PagesSearch {
  const scope = readScope(given);
  const read: PagesSearch = { ...scope, sort: oneOf(given.sort, PAGE_SORTS), page: number(given.page) };
  return Object.fromEntries(Object.entries(read).filter(([, value]) => value !== undefined));
}

/** The address of Standing: days and the part of the site, nothing that judges rows. */
export function readStandingSearch(given: Record<string, unknown>): ScopeSearch {
  const { from, to, compare, device, country, section, type, group } = readSearch(given);
  const read: ScopeSearch = { from, to, compare, device, country, section, type, group };
  return Object.fromEntries(Object.entries(read).filter(([, value]) => value !== undefined));
}

export type QuerySearch = ScopeSearch & { query?: number; page?: number };

/** The address of one query's own view. */
export function readQuerySearch(given: Record<string, unknown>): QuerySearch {
  const query = number(given.query);
  const page = number(given.page);
  return { ...readStandingSearch(given), ...(query !== undefined && { query }), ...(page !== undefined && { page }) };
}

const CLASH_SORTS = ["query", "loss", "kind", "clicks", "impressions", "best_position", "hand_offs"] as const;
export type ClashSort = (typeof CLASH_SORTS)[number];
export type ClashesSearch = ScopeSearch & { view?: "folds"; sort?: ClashSort; query?: number };

/** The address of Clashes. */
export function readClashesSearch(given: Record<string, unknown>): ClashesSearch {
  const scope = readScope(given);
  const read: ClashesSearch = {
    ...scope,
    view: oneOf(given.view, ["folds"] as const),
    sort: oneOf(given.sort, CLASH_SORTS),
    query: number(given.query),
  };
  return Object.fromEntries(Object.entries(read).filter(([, value]) => value !== undefined));
}

/** Read an address that anyone may have written; what makes no sense in it is passed over. */
export function readSearch(given: Record<string, unknown>): QueriesSearch {
  const grades = Array.isArray(given.evidence)
    ? GRADES.filter((grade) => (given.evidence as unknown[]).includes(grade))
    : [];
  const shown = number(given.shown);
  const read: QueriesSearch = {
    view: oneOf(given.view, ["groups"] as const),
    lens: oneOf(given.lens, Object.keys(LENSES) as Lens[]),
    from: isDay(given.from),
    to: isDay(given.to),
    compare: oneOf(given.compare, Object.keys(COMPARISONS) as Comparison[]),
    shown: shown === undefined ? undefined : Math.round(shown),
    target: oneOf(given.target, Object.keys(TARGETS) as Target[]),
    text: given.text == null || given.text === "" ? undefined : String(given.text).slice(0, 500),
    evidence: grades.length ? grades : undefined,
    above: number(given.above),
    below: number(given.below),
    device: texts(given.device),
    country: texts(given.country),
    section: typeof given.section === "string" && given.section ? given.section.slice(0, 500) : undefined,
    type: texts(given.type),
    group: texts(given.group),
    decided: oneOf(given.decided, ["open", "settled"] as const),
    sort: oneOf(given.sort, SORTS),
    up: given.up === true ? true : undefined,
    row: typeof given.row === "string" && /^\d+-\d+$/.test(given.row) ? given.row : undefined,
  };
  return Object.fromEntries(Object.entries(read).filter(([, value]) => value !== undefined));
}

/** What every question has in common, as the API takes it. */
export function scopeAsked(search: ScopeSearch) {
  return {
    ...(search.from && { from: search.from }),
    ...(search.to && { to: search.to }),
    compare: search.compare ?? "year",
    ...(search.shown !== undefined && { min_impressions: search.shown }),
    target: search.target ?? "next-band",
    ...(search.text && { text: search.text }),
    ...(search.above !== undefined && { position_from: search.above }),
    ...(search.below !== undefined && { position_to: search.below }),
    ...(search.device && { device: search.device }),
    ...(search.country && { country: search.country }),
    ...(search.section && { section: search.section }),
    ...(search.type && { page_type: search.type }),
    ...(search.group && { query_group: search.group }),
    ...(search.decided && { decided: search.decided }),
  } as const;
}

/** What Standing asks, as the API takes it: of the days, one part, section, type or group; its figures know no floor. */
export function standingAsked(search: ScopeSearch) {
  const { from, to, compare, device, country, section, type, group } = search;
  const looked = { from, to, compare, device, country, section, type, group };
  const { target: _, ...asked } = scopeAsked(looked);
  return asked;
}

/** The list that an address asks for, as the API takes it. */
export function listAsked({ view: _, lens, sort, row: __, ...search }: QueriesSearch) {
  return {
    ...scopeAsked(search),
    lens: lens ?? "low-ctr",
    evidence: search.evidence ?? SURE,
    sort: sort ?? "at_stake",
    descending: !search.up,
  } as const;
}

/** The pages that an address asks for: all of them, unless evidence is asked for. */
export function pagesAsked({ sort, page: _, ...search }: PagesSearch) {
  return {
    ...scopeAsked(search),
    ...(search.evidence && { evidence: search.evidence }),
    sort: sort ?? "gain",
    descending: !search.up,
  } as const;
}
/** The clashes that an address asks for: all of them, thin ones too, unless evidence is asked for. */
export function clashesAsked({ sort, query: _, view: __, ...search }: ClashesSearch) {
  return {
    ...scopeAsked(search),
    ...(search.evidence && { evidence: search.evidence }),
    sort: sort ?? "loss",
    descending: !search.up,
  } as const;
}
/** What was asked of a list, without how it is sorted: the scope that a move's gain is told by. */
export function scopeOf({ sort: _, descending: __, ...scope }: { sort?: string; descending?: boolean }) {
  return "lens" in scope ? (({ lens: ___, ...rest }) => rest)(scope) : scope;
}
export type ScopeAsked = ReturnType<typeof scopeAsked>;
export type ClashesAsked = ReturnType<typeof clashesAsked>;
export type PagesAsked = ReturnType<typeof pagesAsked>;

const MOVE_SORTS = ["query", "rank", "gain_cautious", "state", "who", "due", "came_of_it"] as const;
export type MoveSort = (typeof MOVE_SORTS)[number];
export const STATES = ["open", "to do", "under way", "made", "measured", "left alone"] as const;
export type MovesSearch = { state?: (typeof STATES)[number]; text?: string; sort?: MoveSort; up?: true; move?: number };

/** The address of Moves. */
export function readMovesSearch(given: Record<string, unknown>): MovesSearch {
  const { text, up } = readSearch(given);
  const read: MovesSearch = {
    state: oneOf(given.state, STATES),
    text,
    sort: oneOf(given.sort, MOVE_SORTS),
    up,
    move: number(given.move),
  };
  return Object.fromEntries(Object.entries(read).filter(([, value]) => value !== undefined));
}

/** The moves that an address asks for, as the API takes it: all, by what they bring for their effort. */
export function movesAsked({ state, text, sort, up }: MovesSearch) {
  return {
    ...(state && { state }),
    ...(text && { text }),
    ...(sort && { sort }),
    descending: !up,
  } as const;
}
export type MovesAsked = ReturnType<typeof movesAsked>;
export type StandingAsked = ReturnType<typeof standingAsked>;
export type ListAsked = ReturnType<typeof listAsked>;
