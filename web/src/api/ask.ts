// Questions to the API, typed by its schema and cached by their parameters.
import { keepPreviousData, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import createQueries from "openapi-react-query";
import type { Subject } from "../listing/marked";
import { type FindingName, ofSubject, type ViewOptions } from "../state/view";
import { api, type Schemas } from "./client";
import type { paths } from "./schema.generated";

export const ask = createQueries(api);
const FIVE_MINUTES = 5 * 60_000;
/** The last answer stays while the next one loads. */
export const STEADY = { staleTime: FIVE_MINUTES, placeholderData: keepPreviousData } as const;

type FindingPath<Name extends FindingName> = `/api/sites/{slug}/findings/${Name}`;
type Ok<Path extends keyof paths> = paths[Path] extends {
  get: { responses: { 200: { content: { "application/json": infer Details } } } };
}
  ? Details
  : never;
/** A finding's answer. */
export type Answer<Name extends FindingName> = Ok<FindingPath<Name>>;
/** A row of a finding, also outside its list, where it has no key. */
export type Row<Name extends FindingName> = Answer<Name> extends { rows: (infer One)[] } ? Omit<One, "key"> : never;

export const sessionQuery = ask.queryOptions("get", "/api/session", {}, { staleTime: 60_000 });
export const sitesQuery = ask.queryOptions("get", "/api/sites", {}, { staleTime: 30_000 });
export const ofSite = (slug: string) => ({ params: { path: { slug } } });

const WINDOW = 100;
type Sorted = { sort: string; descending: boolean };

function windowOf<Name extends FindingName>(
  slug: string,
  finding: Name,
  options: ViewOptions,
  sorted: Sorted,
  index: number,
  limit = WINDOW,
) {
  return {
    queryKey: ["finding", finding, slug, options, sorted, index, limit],
    queryFn: async ({ signal }: { signal: AbortSignal }) => {
      const query = { ...options, ...sorted, offset: index * WINDOW, limit };
      // All findings have the same question; the path names the finding, and the schema its rows.
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
  options: ViewOptions,
  { sorted = AS_FOUND, enabled = true, limit = WINDOW }: { sorted?: Sorted; enabled?: boolean; limit?: number } = {},
) {
  return useQuery({
    ...windowOf(slug, finding, options, sorted, 0, limit),
    enabled,
    // The last answer stays while the next one loads, but only for the same finding: another's rows have other columns.
    placeholderData: (last, query) => (query?.queryKey[1] === finding && query.queryKey[2] === slug ? last : undefined),
  });
}

type Picked<Name extends FindingName> = { place: number; row: Row<Name>; example: string };

/** A row of a finding by its key, with its index in the order; null where it is not among the rows. */
export function usePicked<Name extends FindingName>(
  slug: string,
  finding: Name,
  options: ViewOptions,
  sorted: Sorted,
  key: string | undefined,
) {
  return useQuery({
    queryKey: ["picked", finding, slug, options, sorted, key],
    queryFn: async ({ signal }: { signal: AbortSignal }) => {
      const query = { ...options, ...sorted, limit: 1, row: key };
      const path = `/api/sites/{slug}/findings/${finding}` as "/api/sites/{slug}/findings/low-ctr";
      const answer = await api.GET(path, { params: { path: { slug }, query }, signal });
      return (answer.data?.picked ?? null) as unknown as Picked<Name> | null;
    },
    staleTime: FIVE_MINUTES,
    enabled: key !== undefined,
  });
}

/** The rows of a list of any length, fetched in windows: any row by index, undefined while it loads. */
export function useRowsAt<Name extends FindingName>(
  slug: string,
  finding: Name,
  options: ViewOptions,
  sorted: Sorted,
  first: number,
  last: number,
) {
  const from = Math.floor(Math.max(first, 0) / WINDOW);
  const to = Math.floor(Math.max(last, 0) / WINDOW);
  const wanted = Array.from({ length: to - from + 1 }, (_, step) => from + step);
  const windows = useQueries({ queries: wanted.map((index) => windowOf(slug, finding, options, sorted, index)) });
  return (index: number) => {
    const answer = windows[Math.floor(index / WINDOW) - from]?.data as { rows: Row<Name>[] } | undefined;
    return answer?.rows[index % WINDOW];
  };
}

// --- single subjects --------------------------------------------------------------------------------------------------

export const rowQuery = (slug: string, options: ViewOptions, lens: "low-ctr", row: string) => {
  const [page_id = 0, query_id = 0] = row.split("-").map(Number);
  const params = {
    path: { slug, page_id, query_id },
    query: { ...options, evidence: undefined, text: undefined, lens },
  };
  return ask.queryOptions("get", "/api/sites/{slug}/rows/{page_id}/{query_id}", { params }, STEADY);
};
export const pageQuery = (slug: string, options: ViewOptions, row: string) =>
  ask.queryOptions(
    "get",
    "/api/sites/{slug}/pages/{page_id}",
    { params: { path: { slug, page_id: Number(row) }, query: ofSubject(options) } },
    STEADY,
  );
export const clashQuery = (slug: string, options: ViewOptions, row: string) =>
  ask.queryOptions(
    "get",
    "/api/sites/{slug}/clashes/{query_id}",
    { params: { path: { slug, query_id: Number(row) }, query: ofSubject(options) } },
    STEADY,
  );
export const stripQuery = (slug: string, options: ViewOptions, page_id: number, query_id?: number, phrase?: string) =>
  ask.queryOptions(
    "get",
    "/api/sites/{slug}/on-page/{page_id}",
    {
      params: {
        path: { slug, page_id },
        query: { ...ofSubject(options), query_id, ...(phrase ? { phrase: [phrase] } : {}) },
      },
    },
    STEADY,
  );
export const linksQuery = (slug: string, options: ViewOptions, row: string) =>
  ask.queryOptions(
    "get",
    "/api/sites/{slug}/links/{page_id}",
    { params: { path: { slug, page_id: Number(row) }, query: ofSubject(options) } },
    STEADY,
  );
export const briefQuery = (slug: string, options: ViewOptions, query_id: number, page: string) =>
  ask.queryOptions(
    "get",
    "/api/sites/{slug}/brief/{query_id}",
    { params: { path: { slug, query_id }, query: { ...ofSubject(options), page } } },
    STEADY,
  );
export const titleQuery = (slug: string, options: ViewOptions, row: string) =>
  ask.queryOptions(
    "get",
    "/api/sites/{slug}/titles/{page_id}",
    { params: { path: { slug, page_id: Number(row) }, query: ofSubject(options) } },
    STEADY,
  );
export const resultsQuery = (slug: string, options: ViewOptions, query_id: number) =>
  ask.queryOptions(
    "get",
    "/api/sites/{slug}/results/{query_id}",
    { params: { path: { slug, query_id }, query: ofSubject(options) } },
    STEADY,
  );
export const moveQuery = (slug: string, row: string) =>
  ask.queryOptions(
    "get",
    "/api/sites/{slug}/moves/{move_id}",
    { params: { path: { slug, move_id: Number(row) } } },
    // Others may change it meanwhile: it is fetched again on every visit, and at intervals.
    { placeholderData: keepPreviousData, staleTime: 0, refetchInterval: 10_000 },
  );

/** Prefetch the likely next subject. */
export function usePrefetch() {
  const queryClient = useQueryClient();
  return (options: { queryKey: unknown }) => queryClient.prefetchQuery({ staleTime: 30_000, ...options } as never);
}

// --- decisions --------------------------------------------------------------------------------------------------------

export type Mark = Schemas["Mark"];
const markKey = ({ page, query }: Subject) => `${page ?? ""}-${query ?? ""}`;

/** Decisions about a row, page or query; and about the rows of a page. */
export function useMarks(slug: string) {
  const marks = ask.useQuery("get", "/api/sites/{slug}/marks", ofSite(slug), {
    select: (stored) => {
      const ofRows = new Map<number, Mark[]>();
      for (const mark of stored)
        if (mark.page !== null && mark.query !== null) ofRows.set(mark.page, [...(ofRows.get(mark.page) ?? []), mark]);
      return { byKey: new Map(stored.map((mark) => [markKey(mark), mark])), ofRows };
    },
    staleTime: 30_000,
    refetchInterval: 30_000, // to see others' decisions
  });
  return {
    of: (subject: Subject): Mark | undefined => marks.data?.byKey.get(markKey(subject)),
    onRowsOf: (page: number): Mark[] => marks.data?.ofRows.get(page) ?? [],
  };
}

/** People who can be assigned a move. */
export const usePeople = (slug: string): string[] =>
  ask.useQuery("get", "/api/sites/{slug}/people", ofSite(slug), { staleTime: 60_000 }).data ?? [];
