// A SERP as captured: what is above the site's result.
import type { Schemas } from "../api/client";
import { day } from "../shared/format";

export function ResultsPage({ results, words }: { results: Schemas["ResultBlock"][]; words: string | null }) {
  const first = results[0];
  const blocks = results.filter((block) => block.query_id === first?.query_id);
  return (
    <>
      {words && <p>{words}</p>}
      <p className="text-faint text-xs">
        “{first?.query}”, captured {first && day(first.captured)}
      </p>
      <ol className="text-xs">
        {blocks.map((block) => (
          <li
            key={block.rank}
            className={`flex gap-2 border-rule border-t py-0.5 ${block.own ? "bg-picked font-semibold" : ""}`}
          >
            <span className="w-5 text-right text-faint">{block.rank}</span>
            <span className="w-24 shrink-0">{block.block}</span>
            <span className="truncate" title={block.address ?? undefined}>
              {block.title ?? block.snippet}
            </span>
          </li>
        ))}
      </ol>
    </>
  );
}
