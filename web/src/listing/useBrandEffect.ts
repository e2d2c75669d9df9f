import { keepPreviousData } from "@tanstack/react-query";
import { ask } from "../api/ask";

/** The effect of patterns, while they are typed. */
export const useBrandEffect = (slug: string, pattern: string[], enabled: boolean) =>
  ask.useQuery(
    "get",
    "/api/sites/{slug}/brand",
    { params: { path: { slug }, query: { pattern } } },
    { enabled, retry: false, placeholderData: keepPreviousData },
  );
