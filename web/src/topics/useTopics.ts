// People's edits of topics, each with an undo.
import { toast } from "sonner";
import { api, type Schemas } from "../api/client";
import { useAct } from "../shared/useAct";

type Edit = Schemas["TopicEditInput"];

export function useTopics(slug: string) {
  const act = useAct();
  const path = { slug };
  return async function edit(kind: Edit["kind"], queries: number[], done: string, name = ""): Promise<boolean> {
    const body = { kind, queries, name };
    const made = await act(() => api.POST("/api/sites/{slug}/topics", { params: { path }, body }));
    if (!made) return false;
    const undo = () =>
      api.DELETE("/api/sites/{slug}/topics/{edit_id}", { params: { path: { ...path, edit_id: made.id } } });
    toast(done, { action: { label: "Undo", onClick: () => act(undo) } });
    return true;
  };
}
