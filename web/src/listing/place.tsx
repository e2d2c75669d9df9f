// Shared by places with lists: their keys, and their empty states.
import { useNavigate } from "@tanstack/react-router";
import { useEffect } from "react";
import { save } from "../shared/ExportMenu";
import { useKeys } from "../shared/keys";
import { Button, Notice } from "../shared/parts";

type ListPlace = {
  title: string;
  base: string; // the address of the list as a file
  options: Record<string, unknown>;
  rows: string; // the number and noun in the words of the export
  open?: (name: string) => void;
};

/** The window title, the keys of the top line (p, f, b, /) and of the export (e). */
export function useListPlace({ title, base, options, rows, open }: ListPlace): void {
  useEffect(() => {
    document.title = `${title} · Zugzwang`;
  }, [title]);
  useKeys({
    ...(open && { p: () => open("period"), f: () => open("filters"), b: () => open("brand") }),
    "/": () => document.getElementById("list-search")?.focus(),
    e: () => save(base, options, rows, "csv"),
  });
}

export function NoData({ slug }: { slug: string }) {
  const navigate = useNavigate();
  return (
    <Notice
      title="No data yet"
      action={
        <Button onClick={() => navigate({ to: "/$site/data", params: { site: slug }, search: {} })}>Load a file</Button>
      }
    >
      Load search data: day, page, query, clicks, impressions, position. Results appear here.
    </Notice>
  );
}
