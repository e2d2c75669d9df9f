// What the places that list something share: their keys, and what stands there before there are data.
import { useNavigate } from "@tanstack/react-router";
import { useKeys } from "./keys";
import { Button, Notice } from "./parts";

/** p, f, b open the words of the top line, / goes to the search, e exports. */
export function useListKeys(open: (name: string) => void, exportList: () => void): void {
  useKeys({
    p: () => open("period"),
    f: () => open("filters"),
    b: () => open("brand"),
    "/": () => document.getElementById("list-search")?.focus(),
    e: exportList,
  });
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
