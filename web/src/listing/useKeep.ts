import { useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { api, type ProblemError, type Schemas } from "../api/client";

type Settings = Partial<Schemas["SiteChanged"]>;

/** Save settings for everyone on a site, with an undo; returns whether they were saved. */
export function useKeep(site: Schemas["SiteShown"]) {
  const queryClient = useQueryClient();

  async function save(settings: Settings): Promise<boolean> {
    try {
      await api.PATCH("/api/sites/{slug}", { params: { path: { slug: site.slug } }, body: settings });
      await queryClient.invalidateQueries();
      return true;
    } catch (error) {
      const { problem } = error as ProblemError;
      toast.error(`${problem.detail} ${problem.remedy}`);
      return false;
    }
  }

  return async (settings: Settings, before?: Settings): Promise<boolean> => {
    const saved = await save(settings);
    if (saved) {
      toast("Saved for everyone on this site.", before && { action: { label: "Undo", onClick: () => save(before) } });
    }
    return saved;
  };
}
