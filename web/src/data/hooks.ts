// Queries of Data to the API.
import { keepPreviousData } from "@tanstack/react-query";
import { ask, ofSite } from "../api/ask";
import type { Schemas } from "../api/client";

export type Rules = Schemas["RulesInput"];

export const useSources = (slug: string) => ask.useQuery("get", "/api/sites/{slug}/sources", ofSite(slug));
export const useConnections = (slug: string) => ask.useQuery("get", "/api/sites/{slug}/connections", ofSite(slug));
export const useEvents = (slug: string) => ask.useQuery("get", "/api/sites/{slug}/events", ofSite(slug));
export const useRuleChanges = (slug: string) => ask.useQuery("get", "/api/sites/{slug}/rules/changes", ofSite(slug));
export const useRules = (slug: string) =>
  ask.useQuery("get", "/api/sites/{slug}/rules", ofSite(slug), { staleTime: 60_000 });
export const useBrandSuggestions = (slug: string, enabled: boolean) =>
  ask.useQuery("get", "/api/sites/{slug}/brand/suggestions", ofSite(slug), { enabled });
export const useLoads = (slug: string, offset: number) =>
  ask.useQuery(
    "get",
    "/api/sites/{slug}/loads",
    { params: { path: { slug }, query: { offset } } },
    { placeholderData: keepPreviousData },
  );
export const useLoad = (slug: string, id: number | undefined) =>
  ask.useQuery(
    "get",
    "/api/sites/{slug}/loads/{load_id}",
    { params: { path: { slug, load_id: id ?? 0 } } },
    { enabled: id !== undefined },
  );
export const useRulesEffect = (slug: string, rules: Rules | undefined) =>
  ask.useQuery(
    "post",
    "/api/sites/{slug}/rules/effect",
    { params: { path: { slug } }, body: rules as Rules },
    { enabled: rules !== undefined, retry: false, placeholderData: keepPreviousData },
  );
export const useJobs = (slug: string) =>
  ask.useQuery("get", "/api/sites/{slug}/jobs", ofSite(slug), { refetchInterval: 5_000 });
export const useJob = (slug: string, id: number | undefined) =>
  ask.useQuery(
    "get",
    "/api/sites/{slug}/jobs/{job_id}",
    { params: { path: { slug, job_id: id ?? 0 } } },
    {
      enabled: id !== undefined,
      refetchInterval: ({ state: { data } }) => {
        if (!data || data.state === "waiting" || data.state === "running") return 500;
        return data.state === "done" && data.step ? 2_000 : false;
      },
    },
  );
