// Undo the last action: saved moves and decisions; all or none, in one request.
import { api } from "../api/client";
import { useAct } from "../shared/useAct";

type Made = { id: number }[];

export function useTakeBack(slug: string) {
  const act = useAct();
  const all = (made: Made) => ({ params: { path: { slug } }, body: { ids: made.map((one) => one.id) } });
  return {
    moves: (made: Made) =>
      act(async () => {
        await api.POST("/api/sites/{slug}/moves/dropped", all(made));
        return { data: true };
      }),
    decisions: (made: Made) => act(() => api.POST("/api/sites/{slug}/decisions/taken-back", all(made))),
  };
}
