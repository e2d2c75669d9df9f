import { keepPreviousData } from "@tanstack/react-query";
import { ask } from "../api/ask";

/** What patterns would leave out, while they are typed. */
export const useBrandEffect = (slug: string, pattern: string[], enabled: boolean) =>
  ask.useQuery(
    "get",
    "/api/sites/{slug}/brand",
    { params: { path: { slug }, query: { pattern } } },
    { enabled, retry: false, placeholderData: keepPreviousData },
  );
