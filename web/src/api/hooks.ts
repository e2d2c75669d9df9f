// What the places ask of the API, cached by what was asked.
import { keepPreviousData, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import type { Subject } from "../shared/marked";
import type { ClashesAsked, ListAsked, MovesAsked, PagesAsked, ScopeAsked, StandingAsked } from "../state/search";
import { api, given, type Schemas } from "./client";

const WINDOW = 100;
export type Row = Schemas["Row"];

export const sessionQuery = {
  queryKey: ["session"],
  queryFn: async () => given(await api.GET("/api/session")),
  staleTime: 60_000,
};
export const sitesQuery = {
  queryKey: ["sites"],
  queryFn: async () => given(await api.GET("/api/sites")),
  staleTime: 30_000,
};

export const facetsQuery = (slug: string) => ({
  queryKey: ["facets", slug],
  queryFn: async () => given(await api.GET("/api/sites/{slug}/facets", { params: { path: { slug } } })),
  staleTime: 60_000,
});
export const methodsQuery = {
  queryKey: ["methods"],
  queryFn: async () => given(await api.GET("/api/methods")),
  staleTime: Number.POSITIVE_INFINITY,
};

type Window = { offset: number; limit: number };
type Fetch<Asked, List> = (slug: string, asked: Asked, window: Window, signal: AbortSignal) => Promise<List>;

/** A list as long as it is, fetched in windows: its head with the first rows, and any row by its place. */
function listOf<Asked, Row, List extends { rows: Row[] }>(name: string, fetch: Fetch<Asked, List & { rows: Row[] }>) {
  const window = (slug: string, asked: Asked, index: number) => ({
    queryKey: [name, slug, asked, index],
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      fetch(slug, asked, { offset: index * WINDOW, limit: WINDOW }, signal),
    staleTime: 5 * 60_000,
  });
  return {
    /** Counts, period, sentences and the first rows; the last list stays while the next one comes. */
    useHead: (slug: string, asked: Asked, enabled: boolean) =>
      useQuery({ ...window(slug, asked, 0), enabled, placeholderData: keepPreviousData }),
    /** A row by its place in the list, or undefined while its window is fetched. */
    useRowsAt: (slug: string, asked: Asked, first: number, last: number) => {
      const from = Math.floor(Math.max(first, 0) / WINDOW);
      const to = Math.floor(Math.max(last, 0) / WINDOW);
      const wanted = Array.from({ length: to - from + 1 }, (_, step) => from + step);
      const windows = useQueries({ queries: wanted.map((index) => window(slug, asked, index)) });
      return (index: number): Row | undefined => windows[Math.floor(index / WINDOW) - from]?.data?.rows[index % WINDOW];
    },
  };
}

export const queryList = listOf<ListAsked, Row, Schemas["Rows"]>("rows", async (slug, asked, window, signal) =>
  given(
    await api.GET("/api/sites/{slug}/queries", {
      params: { path: { slug }, query: { ...asked, evidence: [...asked.evidence], ...window } },
      signal,
    }),
  ),
);

export type PageRow = Schemas["AccountShown"];

export const pageList = listOf<PagesAsked, PageRow, Schemas["Pages"]>("pages", async (slug, asked, window, signal) =>
  given(
    await api.GET("/api/sites/{slug}/pages", { params: { path: { slug }, query: { ...asked, ...window } }, signal }),
  ),
);

function pageFileQuery(slug: string, asked: PagesAsked, page: number) {
  const { sort: _, descending: __, evidence: ___, ...scope } = asked;
  return {
    queryKey: ["page", slug, scope, page],
    queryFn: async ({ signal }: { signal: AbortSignal }) =>
      given(
        await api.GET("/api/sites/{slug}/pages/{page_id}", {
          params: { path: { slug, page_id: page }, query: { ...scope, section: "", text: "" } },
          signal,
        }),
      ),
    staleTime: 5 * 60_000,
  };
}

/** Everything about one page. */
export function usePageFile(slug: string, asked: PagesAsked, page: number | undefined) {
  return useQuery({
    ...pageFileQuery(slug, asked, page ?? 0),
    enabled: page !== undefined,
    placeholderData: keepPreviousData,
  });
}

/** Fetch the files of pages that are likely looked at next. */
export function usePrefetchPage(slug: string, asked: PagesAsked) {
  const queryClient = useQueryClient();
  return (page: string) => queryClient.prefetchQuery(pageFileQuery(slug, asked, Number(page)));
}

export type ClashRow = Schemas["ClashShown"];

export const clashList = listOf<ClashesAsked, ClashRow, Schemas["Clashes"]>(
  "clashes",
  async (slug, asked, window, signal) =>
    given(
      await api.GET("/api/sites/{slug}/clashes", {
        params: { path: { slug }, query: { ...asked, ...window } },
        signal,
      }),
    ),
);

function clashFileQuery(slug: string, asked: ClashesAsked, query: number) {
  const { sort: _, descending: __, evidence: ___, ...scope } = asked;
  return {
    queryKey: ["clash", slug, scope, query],
    queryFn: async ({ signal }: { signal: AbortSignal }) =>
      given(
        await api.GET("/api/sites/{slug}/clashes/{query_id}", {
          params: { path: { slug, query_id: query }, query: { ...scope, section: "", text: "", decided: "any" } },
          signal,
        }),
      ),
    staleTime: 5 * 60_000,
  };
}

/** The days of one clash. */
export function useClashFile(slug: string, asked: ClashesAsked, query: number | undefined) {
  return useQuery({
    ...clashFileQuery(slug, asked, query ?? 0),
    enabled: query !== undefined,
    placeholderData: keepPreviousData,
  });
}

/** Fetch the days of clashes that are likely looked at next. */
export function usePrefetchClash(slug: string, asked: ClashesAsked) {
  const queryClient = useQueryClient();
  return (query: string) => queryClient.prefetchQuery(clashFileQuery(slug, asked, Number(query)));
}

function evidenceQuery(slug: string, asked: ListAsked, row: string) {
  const [page = 0, query = 0] = row.split("-").map(Number);
  return {
    queryKey: ["evidence", slug, asked, row],
    queryFn: async ({ signal }: { signal: AbortSignal }) =>
      given(
        await api.GET("/api/sites/{slug}/queries/evidence", {
          params: { path: { slug }, query: { ...asked, evidence: ["firm", "likely", "thin"], text: "", page, query } },
          signal,
        }),
      ),
    staleTime: 5 * 60_000,
  };
}

export function useEvidence(slug: string, asked: ListAsked, row: string | undefined) {
  return useQuery({
    ...evidenceQuery(slug, asked, row ?? "0-0"),
    enabled: row !== undefined,
    placeholderData: keepPreviousData,
  });
}

/** Fetch the proof of rows that are likely looked at next. */
export function usePrefetchEvidence(slug: string, asked: ListAsked) {
  const queryClient = useQueryClient();
  return (row: string) => queryClient.prefetchQuery(evidenceQuery(slug, asked, row));
}

export function useField(slug: string, asked: ListAsked) {
  const { lens, compare: _, sort: __, descending: ___, ...rest } = asked;
  return useQuery({
    queryKey: ["field", slug, lens, rest],
    queryFn: async ({ signal }) =>
      given(
        await api.GET("/api/sites/{slug}/queries/field", {
          params: { path: { slug }, query: { ...rest, lens, evidence: [...asked.evidence] } },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    staleTime: 5 * 60_000,
  });
}

/** Where the site, or a section of it, stands. */
export function useStanding(slug: string, asked: StandingAsked, enabled: boolean) {
  return useQuery({
    queryKey: ["standing", slug, asked],
    queryFn: async ({ signal }) =>
      given(await api.GET("/api/sites/{slug}/standing", { params: { path: { slug }, query: asked }, signal })),
    enabled,
    placeholderData: keepPreviousData,
    staleTime: 5 * 60_000,
  });
}

export function useSections(slug: string, asked: StandingAsked) {
  return useQuery({
    queryKey: ["sections", slug, asked],
    queryFn: async ({ signal }) =>
      given(
        await api.GET("/api/sites/{slug}/sections", {
          params: { path: { slug }, query: { ...asked, limit: 500 } },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    staleTime: 5 * 60_000,
  });
}

export type QueryGroup = Schemas["QueryGroupShown"];

/** Query groups, with what their queries earn and could gain. */
export function useQueryGroups(slug: string, asked: ScopeAsked, enabled: boolean) {
  return useQuery({
    queryKey: ["groups", slug, asked],
    queryFn: async ({ signal }) =>
      given(
        await api.GET("/api/sites/{slug}/query-groups", {
          params: { path: { slug }, query: { ...asked, limit: 500 } },
          signal,
        }),
      ),
    enabled,
    placeholderData: keepPreviousData,
    staleTime: 5 * 60_000,
  });
}

/** Pairs of pages that are shown for the same queries. */
export function useTopicFolds(slug: string, asked: StandingAsked) {
  return useQuery({
    queryKey: ["folds", slug, asked],
    queryFn: async ({ signal }) =>
      given(
        await api.GET("/api/sites/{slug}/topic-folds", {
          params: { path: { slug }, query: { ...asked, limit: 500 } },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    staleTime: 5 * 60_000,
  });
}

/** Breaks of pages over all days, with the cliffs. */
export function useBreaks(slug: string, asked: StandingAsked) {
  const { from: _, to: __, ...scope } = asked;
  return useQuery({
    queryKey: ["breaks", slug, scope],
    queryFn: async ({ signal }) =>
      given(
        await api.GET("/api/sites/{slug}/breaks", {
          params: { path: { slug }, query: { ...scope, level: "page", sort: "week", limit: 100 } },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    staleTime: 5 * 60_000,
  });
}

/** One query with every page shown for it. */
export function useQueryFile(slug: string, asked: StandingAsked, query: number | undefined) {
  return useQuery({
    queryKey: ["query", slug, asked, query],
    queryFn: async ({ signal }) =>
      given(
        await api.GET("/api/sites/{slug}/queries/{query_id}", {
          params: { path: { slug, query_id: query ?? 0 }, query: asked },
          signal,
        }),
      ),
    enabled: query !== undefined,
    staleTime: 5 * 60_000,
  });
}

export type MoveRow = Schemas["MoveShown"];

export const moveList = listOf<MovesAsked, MoveRow, Schemas["Moves"]>("moves", async (slug, asked, window, signal) =>
  given(
    await api.GET("/api/sites/{slug}/moves", { params: { path: { slug }, query: { ...asked, ...window } }, signal }),
  ),
);

function moveQuery(slug: string, id: number) {
  return {
    queryKey: ["move", slug, id],
    queryFn: async ({ signal }: { signal: AbortSignal }) =>
      given(await api.GET("/api/sites/{slug}/moves/{move_id}", { params: { path: { slug, move_id: id } }, signal })),
    // Others may change it meanwhile: it is asked for anew whenever it is looked at, and while it is.
    staleTime: 0,
    refetchInterval: 10_000,
  };
}

export function useMove(slug: string, id: number | undefined) {
  return useQuery({ ...moveQuery(slug, id ?? 0), enabled: id !== undefined, placeholderData: keepPreviousData });
}

export function usePrefetchMove(slug: string) {
  const queryClient = useQueryClient();
  return (id: string) => queryClient.prefetchQuery({ ...moveQuery(slug, Number(id)), staleTime: 30_000 });
}

export type Mark = Schemas["MarkShown"];

const markKey = ({ page, query }: Subject) => `${page ?? ""}-${query ?? ""}`;

/** What is decided about a row, page or query; and about the rows of a page. */
export function useMarks(slug: string) {
  const marks = useQuery({
    queryKey: ["marks", slug],
    queryFn: async () => {
      const held = given(await api.GET("/api/sites/{slug}/marks", { params: { path: { slug } } }));
      const ofRows = new Map<number, Mark[]>();
      for (const mark of held)
        if (mark.page !== null && mark.query !== null) ofRows.set(mark.page, [...(ofRows.get(mark.page) ?? []), mark]);
      return { byKey: new Map(held.map((mark) => [markKey(mark), mark])), ofRows };
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
export function usePeople(slug: string): string[] {
  const people = useQuery({
    queryKey: ["people", slug],
    queryFn: async () => given(await api.GET("/api/sites/{slug}/people", { params: { path: { slug } } })),
    staleTime: 60_000,
  });
  return people.data ?? [];
}

/** Moves on some subjects, filled in. */
export function useProposal(slug: string, asked: Record<string, unknown>, subjects: Subject[]) {
  return useQuery({
    queryKey: ["proposal", slug, asked, subjects],
    queryFn: async ({ signal }) =>
      given(
        await api.POST("/api/sites/{slug}/moves/proposal", {
          params: { path: { slug }, query: asked },
          body: { subjects },
          signal,
        }),
      ),
    staleTime: 60_000,
  });
}

export const viewsQuery = (slug: string) => ({
  queryKey: ["views", slug],
  queryFn: async () => given(await api.GET("/api/sites/{slug}/views", { params: { path: { slug } } })),
  staleTime: 60_000,
});

export function useBrandEffect(slug: string, patterns: string[], enabled: boolean) {
  return useQuery({
    queryKey: ["brand", slug, patterns],
    queryFn: async ({ signal }) =>
      given(
        await api.GET("/api/sites/{slug}/brand", { params: { path: { slug }, query: { pattern: patterns } }, signal }),
      ),
    enabled,
    retry: false,
    placeholderData: keepPreviousData,
  });
}

export function useJob(slug: string, id: number | undefined) {
  return useQuery({
    queryKey: ["job", slug, id],
    queryFn: async () =>
      given(await api.GET("/api/sites/{slug}/jobs/{job_id}", { params: { path: { slug, job_id: id ?? 0 } } })),
    enabled: id !== undefined,
    refetchInterval: (query) =>
      query.state.data && !["waiting", "running"].includes(query.state.data.state) ? false : 500,
  });
}

export function useJobs(slug: string) {
  return useQuery({
    queryKey: ["jobs", slug],
    queryFn: async () => given(await api.GET("/api/sites/{slug}/jobs", { params: { path: { slug } } })),
    refetchInterval: 5_000,
  });
}
