// Fetch other sites' pages from SERPs: of some queries, or of all captured ones. It runs in the background.
import { useNavigate } from "@tanstack/react-router";
import { toast } from "sonner";
import { api } from "../api/client";
import { Button } from "../shared/parts";
import { useAct } from "../shared/useAct";

export function FetchCompeting({ site, queries }: { site: { slug: string }; queries?: number[] }) {
  const act = useAct();
  const navigate = useNavigate();
  const known = queries?.filter((one) => one > 0);
  const fetchThem = () =>
    act(
      () =>
        api.POST("/api/sites/{slug}/above", {
          params: { path: { slug: site.slug } },
          body: { queries: known ?? null },
        }),
      (job) =>
        toast("The pages are being fetched.", {
          action: {
            label: "Watch",
            onClick: () => navigate({ to: "/$site/data", params: { site: site.slug }, search: { job: job.id } }),
          },
        }),
    );
  return (
    <Button plain onClick={fetchThem} className="text-xs">
      {known ? `Fetch the competing pages` : "Fetch the pages of all captured results"}
    </Button>
  );
}
