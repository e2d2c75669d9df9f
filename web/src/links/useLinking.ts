// Suggested links: accept, dismiss for a reason, or reopen.
import { useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import type { Row } from "../api/ask";
import { api } from "../api/client";
import { useAct } from "../shared/useAct";

export type Suggestion = Pick<
  Row<"suggested-links">,
  "from_id" | "to_id" | "anchor" | "sentence" | "choice" | "from" | "to"
>;
export type LinkChoice = Row<"suggested-links">["choice"];

export function useLinking(slug: string) {
  const act = useAct();
  const queries = useQueryClient();
  async function decide(links: Suggestion[], choice: LinkChoice, note = ""): Promise<boolean> {
    const body = {
      choice,
      note,
      links: links.map((one) => ({
        source: one.from_id,
        target: one.to_id,
        anchor: one.anchor,
        sentence: one.sentence ?? "",
        seen: one.choice,
      })),
    };
    const saved = await act(() => api.POST("/api/sites/{slug}/planned-links", { params: { path: { slug } }, body }));
    if (!saved)
      await queries.invalidateQueries(); // someone else decided meanwhile: show their decision
    else if (links.length > 1) toast(`${links.length} links are ${choice}.`);
    return saved !== undefined;
  }
  return decide;
}
