// A draft in React: fetched at intervals, with a session (DraftSession) that keeps and saves what is typed.
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useSyncExternalStore } from "react";
import { ask } from "../api/ask";
import { api, values } from "../api/client";
import { type Draft, DraftSession } from "./DraftSession";

const LOOK_MS = 2_000;

/** Identifies this window among those of the same person. */
function windowName(): string {
  const stored = sessionStorage.getItem("zugzwang-window");
  if (stored) return stored;
  const made = crypto.randomUUID?.() ?? String(Math.random()).slice(2).padEnd(8, "0");
  sessionStorage.setItem("zugzwang-window", made);
  return made;
}

export const draftQuery = (slug: string, id: number) =>
  ask.queryOptions("get", "/api/sites/{slug}/drafts/{draft_id}", { params: { path: { slug, draft_id: id } } });

export function useDraft(slug: string, id: number, mayChange: boolean) {
  const queryClient = useQueryClient();
  const me = useMemo(windowName, []);
  const path = useMemo(() => ({ slug, draft_id: id }), [slug, id]);
  const found = ask.useQuery(
    "get",
    "/api/sites/{slug}/drafts/{draft_id}",
    { params: { path } },
    { staleTime: 0, refetchInterval: LOOK_MS },
  );
  const draft = found.data;
  const session = useMemo(() => {
    const params = { path };
    const { queryKey } = draftQuery(slug, id);
    return new DraftSession(
      me,
      `zugzwang-draft-${slug}-${id}`,
      mayChange,
      {
        save: async (words, base) =>
          values(
            await api.PUT("/api/sites/{slug}/drafts/{draft_id}", {
              params,
              body: { ...words, window: me, seen: base.version, base: base.words },
            }),
          ),
        write: async (take) =>
          values(await api.POST("/api/sites/{slug}/drafts/{draft_id}/writer", { params, body: { window: me, take } })),
        leave: () =>
          api.POST("/api/sites/{slug}/drafts/{draft_id}/writer/gone", { params, body: { window: me, take: false } }),
        hold: async (answer: Draft) => {
          await queryClient.cancelQueries({ queryKey });
          queryClient.setQueryData(queryKey, answer);
        },
      },
      localStorage,
    );
  }, [slug, id, path, me, mayChange, queryClient]);
  const view = useSyncExternalStore(session.subscribe, () => session.view);
  useEffect(() => {
    if (draft) session.receive(draft);
  }, [draft, session]);
  useEffect(() => {
    session.start();
    return () => session.stop();
  }, [session]);

  const putBack = async (version: number) =>
    session.restored(
      values(
        await api.POST("/api/sites/{slug}/drafts/{draft_id}/versions", {
          params: { path },
          body: { window: me, version },
        }),
      ),
    );
  const open = draft?.state === "open" && !draft.dropped;
  const other = draft?.writer != null && draft.writer_window !== me ? draft.writer : null;
  return {
    ...view,
    found,
    draft,
    other,
    writes: draft?.writer_window === me,
    mayWrite: Boolean(mayChange && open && !other),
    change: useCallback((part: Parameters<DraftSession["change"]>[0]) => session.change(part), [session]),
    save: useCallback(() => session.save(), [session]),
    write: useCallback((take = false) => session.write(take), [session]),
    choose: (words: Parameters<DraftSession["choose"]>[0]) => session.choose(words),
    letGo: () => session.letGo(),
    putBack,
  };
}
