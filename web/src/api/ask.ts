// What the places ask of the API, typed by its schema and cached by what was asked.
import { keepPreviousData, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import createQueries from "openapi-react-query";
import type { Subject } from "../listing/marked";
import type { Asked, FindingName } from "../state/view";
import { api, type Schemas } from "./client";
import type { paths } from "./schema.generated";

export const ask = createQueries(api);
const FIVE_MINUTES = 5 * 60_000;
/** The last answer is while the next one comes. */
export const STEADY = { staleTime: FIVE_MINUTES, placeholderData: keepPreviousData } as const;

type FindingPath<Name extends FindingName> = `/api/sites/{slug}/findings/${Name}`;
type Ok<Path extends keyof paths> = paths[Path] extends {
  get: { responses: { 200: { content: { "application/json": infer Details } } } };
}
  ? Details
  : never;
/** What a finding answers. */
export type Answer<Name extends FindingName> = Ok<FindingPath<Name>>;
/** A row of a finding, also where it is reported outside its list and has no key. */
export type Row<Name extends FindingName> = Answer<Name> extends { rows: (infer One)[] } ? Omit<One, "key"> : never;

export const sessionQuery = ask.queryOptions("get", "/api/session", {}, { staleTime: 60_000 });
export const sitesQuery = ask.queryOptions("get", "/api/sites", {}, { staleTime: 30_000 });
export const ofSite = (slug: string) => ({ params: { path: { slug } } });

const WINDOW = 100;
type Sorted = { sort: string; descending: boolean };

function windowOf<Name extends FindingName>(
  slug: string,
  finding: Name,
  asked: Asked,
  sorted: Sorted,
  index: number,
  limit = WINDOW,
) {
  return {
    queryKey: ["finding", finding, slug, asked, sorted, index, limit],
    queryFn: async ({ signal }: { signal: AbortSignal }) => {
      const query = { ...asked, ...sorted, offset: index * WINDOW, limit };
      // All findings are asked alike; which one it is says the path, and the schema its rows.
      const path = `/api/sites/{slug}/findings/${finding}` as "/api/sites/{slug}/findings/low-ctr";
      const answer = await api.GET(path, { params: { path: { slug }, query }, signal });
      return answer.data as unknown as Answer<Name>;
    },
    staleTime: FIVE_MINUTES,
  };
}

const AS_FOUND: Sorted = { sort: "", descending: true };

/** A finding's answer with its first rows. */
export function useFinding<Name extends FindingName>(
  slug: string,
  finding: Name,
  asked: Asked,
  { sorted = AS_FOUND, enabled = true, limit = WINDOW }: { sorted?: Sorted; enabled?: boolean; limit?: number } = {},
) {
  return useQuery({
    ...windowOf(slug, finding, asked, sorted, 0, limit),
    enabled,
    // The last answer is while the next one comes, of the same finding alone: another's rows have other columns.
    placeholderData: (last, query) => (query?.queryKey[1] === finding && query.queryKey[2] === slug ? last : undefined),
  });
}

type Picked<Name extends FindingName> = { place: number; row: Row<Name>; example: string };

/** A row of a finding by its key, with its place in the order; null where it is not among the rows. */
export function usePicked<Name extends FindingName>(
  slug: string,
  finding: Name,
  asked: Asked,
  sorted: Sorted,
  key: string | undefined,
) {
  return useQuery({
    queryKey: ["picked", finding, slug, asked, sorted, key],
    queryFn: async ({ signal }: { signal: AbortSignal }) => {
      const query = { ...asked, ...sorted, limit: 1, row: key };
      const path = `/api/sites/{slug}/findings/${finding}` as "/api/sites/{slug}/findings/low-ctr";
      const answer = await api.GET(path, { params: { path: { slug }, query }, signal });
      return (answer.data?.picked ?? null) as unknown as Picked<Name> | null;
    },
    staleTime: FIVE_MINUTES,
    enabled: key !== undefined,
  });
}

/** The rows of a list that is as long as it is, fetched in windows: any row by its place, undefined while it comes. */
export function useRowsAt<Name extends FindingName>(
  slug: string,
  finding: Name,
  asked: Asked,
  sorted: Sorted,
  first: number,
  last: number,
) {
  const from = Math.floor(Math.max(first, 0) / WINDOW);
  const to = Math.floor(Math.max(last, 0) / WINDOW);
  const wanted = Array.from({ length: to - from + 1 }, (_, step) => from + step);
  const windows = useQueries({ queries: wanted.map((index) => windowOf(slug, finding, asked, sorted, index)) });
  return (index: number) => {
    const answer = windows[Math.floor(index / WINDOW) - from]?.data as { rows: Row<Name>[] } | undefined;
    return answer?.rows[index % WINDOW];
  };
}

// --- one thing whole -------------------------------------------------------------------------------------------------

/** What one thing is known by: days, part, target; not what chooses among rows. */
function whole(asked: Asked): Asked {
  const { section: _, page_type: __, text: ___, evidence: ____, decided: _____, ...rest } = asked;
  const { on_page: ______, problem: _______, explained: ________, action: _a, mention: _m, fault: _f, ...more } = rest;
  const { page: _p, phrase: _ph, forms: _fo, ...answer } = more;
  return answer;
}
export const rowQuery = (slug: string, asked: Asked, lens: "low-ctr", row: string) => {
  const [page_id = 0, query_id = 0] = row.split("-").map(Number);
  const params = { path: { slug, page_id, query_id }, query: { ...asked, evidence: undefined, text: undefined, lens } };
  return ask.queryOptions("get", "/api/sites/{slug}/rows/{page_id}/{query_id}", { params }, STEADY);
};
export const pageQuery = (slug: string, asked: Asked, row: string) =>
  ask.queryOptions(
    "get",
    "/api/sites/{slug}/pages/{page_id}",
    { params: { path: { slug, page_id: Number(row) }, query: whole(asked) } },
    STEADY,
  );
export const clashQuery = (slug: string, asked: Asked, row: string) =>
  ask.queryOptions(
    "get",
    "/api/sites/{slug}/clashes/{query_id}",
    { params: { path: { slug, query_id: Number(row) }, query: whole(asked) } },
    STEADY,
  );
export const stripQuery = (slug: string, asked: Asked, page_id: number, query_id?: number, phrase?: string) =>
  ask.queryOptions(
    "get",
    "/api/sites/{slug}/wording/{page_id}",
    {
      params: {
        path: { slug, page_id },
        query: { ...whole(asked), query_id, ...(phrase ? { phrase: [phrase] } : {}) },
      },
    },
    STEADY,
  );
export const linksQuery = (slug: string, asked: Asked, row: string) =>
  ask.queryOptions(
    "get",
    "/api/sites/{slug}/links/{page_id}",
    { params: { path: { slug, page_id: Number(row) }, query: whole(asked) } },
    STEADY,
  );
export const briefQuery = (slug: string, asked: Asked, query_id: number, page: string) =>
  ask.queryOptions(
    "get",
    "/api/sites/{slug}/brief/{query_id}",
    { params: { path: { slug, query_id }, query: { ...whole(asked), page } } },
    STEADY,
  );
export const titleQuery = (slug: string, asked: Asked, row: string) =>
  ask.queryOptions(
    "get",
    "/api/sites/{slug}/titles/{page_id}",
    { params: { path: { slug, page_id: Number(row) }, query: whole(asked) } },
    STEADY,
  );
export const resultsQuery = (slug: string, asked: Asked, query_id: number) =>
  ask.queryOptions(
    "get",
    "/api/sites/{slug}/results/{query_id}",
    { params: { path: { slug, query_id }, query: whole(asked) } },
    STEADY,
  );
export const moveQuery = (slug: string, row: string) =>
  ask.queryOptions(
    "get",
    "/api/sites/{slug}/moves/{move_id}",
    { params: { path: { slug, move_id: Number(row) } } },
    // Others may change it meanwhile: it is asked for anew whenever it is looked at, and while it is.
    { placeholderData: keepPreviousData, staleTime: 0, refetchInterval: 10_000 },
  );

/** Fetch what is likely looked at next. */
export function usePrefetch() {
  const queryClient = useQueryClient();
  return (options: { queryKey: unknown }) => queryClient.prefetchQuery({ staleTime: 30_000, ...options } as never);
}

// --- what is decided -------------------------------------------------------------------------------------------------

export type Mark = Schemas["Mark"];
const markKey = ({ page, query }: Subject) => `${page ?? ""}-${query ?? ""}`;

/** What is decided about a row, page or query; and about the rows of a page. */
export function useMarks(slug: string) {
  const marks = ask.useQuery("get", "/api/sites/{slug}/marks", ofSite(slug), {
    select: (stored) => {
      const ofRows = new Map<number, Mark[]>();
      for (const mark of stored)
        if (mark.page !== null && mark.query !== null) ofRows.set(mark.page, [...(ofRows.get(mark.page) ?? []), mark]);
      return { byKey: new Map(stored.map((mark) => [markKey(mark), mark])), ofRows };
    },
    staleTime: 30_000,
    refetchInterval: 30_000, // what others decide meanwhile
  });
  return {
    of: (subject: Subject): Mark | undefined => marks.data?.byKey.get(markKey(subject)),
    onRowsOf: (page: number): Mark[] => marks.data?.ofRows.get(page) ?? [],
  };
}

/** Those to whom a move can be given. */
export const usePeople = (slug: string): string[] =>
  ask.useQuery("get", "/api/sites/{slug}/people", ofSite(slug), { staleTime: 60_000 }).data ?? [];
