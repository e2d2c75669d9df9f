// Start a draft of a page, or of a new one, and open it.
import { useNavigate } from "@tanstack/react-router";
import { api } from "../api/client";
import { useAct } from "../shared/useAct";
import type { ViewOptions } from "../state/view";

export function useBegin(slug: string) {
  const act = useAct();
  const navigate = useNavigate();
  return async (query: number | null, page: number | null, options: ViewOptions) => {
    const made = await act(() =>
      api.POST("/api/sites/{slug}/drafts", { params: { path: { slug }, query: options }, body: { query, page } }),
    );
    if (made) navigate({ to: "/$site/draft", params: { site: slug }, search: { draft: made.id } });
  };
}
