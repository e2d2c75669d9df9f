// The live check: requested a little after the last key; the last answer stays meanwhile.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, values } from "../api/client";
import type { ViewOptions } from "../state/view";
import type { Words } from "./DraftSession";

const PAUSE_MS = 300;

export function useCheck(slug: string, id: number, words: Words | null, options: ViewOptions) {
  const [settled, setSettled] = useState<Words | null>(null);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(words), settled ? PAUSE_MS : 0);
    return () => clearTimeout(timer);
  }, [words, settled]);
  return useQuery({
    queryKey: ["draft-check", slug, id, settled, options],
    queryFn: async ({ signal }) =>
      values(
        await api.POST("/api/sites/{slug}/drafts/{draft_id}/check", {
          params: { path: { slug, draft_id: id }, query: options },
          body: settled as Words,
          signal,
        }),
      ),
    enabled: settled !== null,
    placeholderData: keepPreviousData,
    gcTime: 60_000,
  });
}
