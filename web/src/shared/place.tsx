// What the places that list something share: their keys, and what stands there before there are data.
import { useNavigate } from "@tanstack/react-router";
import { useEffect } from "react";
import { toast } from "sonner";
import { exportAddress } from "./export";
import { useKeys } from "./keys";
import { Button, Notice } from "./parts";

/**
 * The name of the window, the keys of the top line (p, f, b, /) and of the export (e). Gives the export: all that `finding`
 * finds under `asked`, as a file.
 */
export function useListPlace(props: {
  slug: string;
  title: string;
  finding: string;
  asked: Record<string, unknown>;
  rows: string; // how many of what, for the words of the export
  open: (name: string) => void;
}): () => void {
  const { slug, title, finding, asked, rows, open } = props;
  useEffect(() => {
    document.title = `${title} · Zugzwang`;
  }, [title]);

  function exportList() {
    location.assign(exportAddress(slug, finding, asked));
    toast(`Exporting ${rows} as CSV, with the filters that made the list inside.`);
  }
  useKeys({
    p: () => open("period"),
    f: () => open("filters"),
    b: () => open("brand"),
    "/": () => document.getElementById("list-search")?.focus(),
    e: exportList,
  });
  return exportList;
}

export function NoData({ slug }: { slug: string }) {
  const navigate = useNavigate();
  return (
    <Notice
      title="No data yet"
      action={
        <Button onClick={() => navigate({ to: "/$site/intake", params: { site: slug }, search: {} })}>
          Load a file
        </Button>
      }
    >
      Load a file of search facts – day, page, query, clicks, impressions, position – and what they say stands here.
    </Notice>
  );
}
