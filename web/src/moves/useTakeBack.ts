// Undo of what was just decided: moves that were kept, decisions that were made.
import { api } from "../api/client";
import { useAct } from "../shared/useAct";

type Made = { id: number }[];

export function useTakeBack(slug: string) {
  const act = useAct();
  const path = { slug };
  const all = (requests: Promise<unknown>[]) => act(() => Promise.all(requests).then(() => ({ data: true })));
  return {
    moves: (made: Made) =>
      all(
        made.map(({ id }) =>
          api.DELETE("/api/sites/{slug}/moves/{move_id}", { params: { path: { ...path, move_id: id } } }),
        ),
      ),
    decisions: (made: Made) =>
      all(
        made.map(({ id }) =>
          api.DELETE("/api/sites/{slug}/decisions/{decision_id}", { params: { path: { ...path, decision_id: id } } }),
        ),
      ),
  };
}
