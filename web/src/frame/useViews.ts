// Saved views: named addresses of the application, for everyone who sees the site.
import { useRouter } from "@tanstack/react-router";
import { toast } from "sonner";
import { ask, ofSite } from "../api/ask";
import { api, type Schemas } from "../api/client";
import { useAct } from "../shared/useAct";

export type View = Schemas["ViewShown"];

export function useViews(slug: string) {
  const router = useRouter();
  const act = useAct();
  const views = ask.useQuery("get", "/api/sites/{slug}/views", ofSite(slug), { staleTime: 60_000 });
  const path = { slug };
  const keep = (view: { name: string; address: string }, done: string) =>
    act(() => api.POST("/api/sites/{slug}/views", { params: { path }, body: view }), done);
  return {
    views: views.data ?? [],
    open: (view: View) => router.history.push(`/${slug}/${view.address}`),
    /** Save the current address under a name. */
    save: (name: string) =>
      keep(
        { name, address: location.pathname.replace(`/${slug}/`, "") + location.search },
        `This view is saved as “${name}”.`,
      ),
    remove: (view: View) =>
      act(
        () => api.DELETE("/api/sites/{slug}/views/{view_id}", { params: { path: { slug, view_id: view.id } } }),
        () =>
          toast(`“${view.name}” is taken away.`, {
            action: { label: "Restore", onClick: () => keep(view, "The view is restored.") },
          }),
      ),
  };
}
