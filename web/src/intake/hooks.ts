// What Intake asks of the API.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, given, type Schemas } from "../api/client";

export type Rules = Schemas["RulesGiven"];

export function useSources(slug: string) {
  return useQuery({
    queryKey: ["sources", slug],
    queryFn: async () => given(await api.GET("/api/sites/{slug}/sources", { params: { path: { slug } } })),
  });
}

export function useConnections(slug: string) {
  return useQuery({
    queryKey: ["connections", slug],
    queryFn: async () => given(await api.GET("/api/sites/{slug}/connections", { params: { path: { slug } } })),
  });
}

export function useLoads(slug: string, offset: number) {
  return useQuery({
    queryKey: ["loads", slug, offset],
    queryFn: async () =>
      given(await api.GET("/api/sites/{slug}/loads", { params: { path: { slug }, query: { offset } } })),
    placeholderData: keepPreviousData,
  });
}

export function useLoad(slug: string, id: number | undefined) {
  return useQuery({
    queryKey: ["load", slug, id],
    queryFn: async () =>
      given(await api.GET("/api/sites/{slug}/loads/{load_id}", { params: { path: { slug, load_id: id ?? 0 } } })),
    enabled: id !== undefined,
  });
}

export function useEvents(slug: string) {
  return useQuery({
    queryKey: ["events", slug],
    queryFn: async () => given(await api.GET("/api/sites/{slug}/events", { params: { path: { slug } } })),
  });
}

export function useRules(slug: string) {
  return useQuery({
    queryKey: ["rules", slug],
    queryFn: async () => given(await api.GET("/api/sites/{slug}/rules", { params: { path: { slug } } })),
    staleTime: 60_000,
  });
}

export function useRulesEffect(slug: string, rules: Rules | undefined) {
  return useQuery({
    queryKey: ["effect", slug, rules],
    queryFn: async ({ signal }) =>
      given(
        await api.POST("/api/sites/{slug}/rules/effect", {
          params: { path: { slug } },
          body: rules as Rules,
          signal,
        }),
      ),
    enabled: rules !== undefined,
    retry: false,
    placeholderData: keepPreviousData,
  });
}

export function useRuleChanges(slug: string) {
  return useQuery({
    queryKey: ["rules", slug, "changes"],
    queryFn: async () => given(await api.GET("/api/sites/{slug}/rules/changes", { params: { path: { slug } } })),
  });
}

export function useBrandSuggestions(slug: string, enabled: boolean) {
  return useQuery({
    queryKey: ["brand", slug, "suggestions"],
    queryFn: async () => given(await api.GET("/api/sites/{slug}/brand/suggestions", { params: { path: { slug } } })),
    enabled,
  });
}
