import { toast } from "sonner";
import { api, type Schemas } from "../api/client";
import { useAct } from "../shared/useAct";

type Settings = Partial<Schemas["SiteChanged"]>;

/** Save settings for everyone on a site, with an undo; returns whether they were saved. */
export function useKeep(site: Schemas["SiteShown"]) {
  const act = useAct();
  const save = async (body: Settings) =>
    (await act(() => api.PATCH("/api/sites/{slug}", { params: { path: { slug: site.slug } }, body }))) !== undefined;

  return async (settings: Settings, before?: Settings): Promise<boolean> => {
    const saved = await save(settings);
    if (saved) {
      toast("Saved for everyone on this site.", before && { action: { label: "Undo", onClick: () => save(before) } });
    }
    return saved;
  };
}
