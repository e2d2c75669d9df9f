// A SERP to scale: its blocks by pattern, the site's own in ink, the end of each screen as a line.
import type { Schemas } from "../api/client";

type Block = Schemas["Capture"]["blocks"][number];
const SCALE = 0.22; // pixels there
const LEAST = 13;
// Patterns distinguish kinds without colour; labels accompany them.
const PATTERNS: Partial<Record<Block["kind"], string>> = {
  "featured snippet": "repeating-linear-gradient(45deg, var(--color-ochre) 0 2px, transparent 2px 7px)",
  "generated summary": "repeating-linear-gradient(-45deg, var(--color-ochre) 0 2px, transparent 2px 5px)",
  questions: "repeating-linear-gradient(0deg, var(--color-faint) 0 1px, transparent 1px 6px)",
  pictures: "radial-gradient(var(--color-faint) 1.5px, transparent 2px) 0 0 / 8px 8px",
  videos: "radial-gradient(var(--color-faint) 2px, transparent 2.5px) 0 0 / 12px 12px",
  ads: "repeating-linear-gradient(90deg, var(--color-rust) 0 1px, transparent 1px 6px)",
  shopping: "repeating-linear-gradient(90deg, var(--color-rust) 0 2px, transparent 2px 10px)",
};

export function Sheet({ capture }: { capture: Schemas["Capture"] }) {
  let top = 0;
  const blocks = capture.blocks.map((block) => {
    const height = Math.max(block.pixels * SCALE, LEAST);
    const placed = { ...block, top, height };
    top += height;
    return placed;
  });
  const screens = Math.floor(top / (capture.screen * SCALE));
  return (
    <figure className="mt-2">
      <ol className="relative" style={{ height: top }} aria-label={`SERP of ${capture.captured}, from the top`}>
        {blocks.map((block) => (
          <li
            key={block.rank}
            className="absolute right-0 left-0 flex items-center border-rule border-b"
            style={{ top: block.top, height: block.height }}
          >
            <span
              aria-hidden="true"
              className={`h-full w-24 shrink-0 border-strong-rule border-x ${block.own ? "bg-ink" : ""}`}
              style={block.own ? undefined : { background: PATTERNS[block.kind] }}
            />
            <span className="w-28 shrink-0 truncate pl-2 text-faint text-xs">
              {block.kind}
              {block.answer && `, ${block.answer}`}
            </span>
            <span className={`truncate text-xs ${block.own ? "font-semibold" : ""}`} title={block.address ?? undefined}>
              {block.own && "ours: "}
              {block.title ?? block.snippet ?? ""}
            </span>
          </li>
        ))}
        {Array.from({ length: screens }, (_, number) => number + 1).map((screen) => (
          <li
            key={`screen ${screen}`}
            aria-label={`Screen ${screen} ends here`}
            className="absolute right-0 left-0 border-rust border-t border-dashed"
            style={{ top: screen * capture.screen * SCALE }}
          >
            <span className="absolute right-0 bg-paper px-1 text-xs text-rust leading-3">screen {screen}</span>
          </li>
        ))}
      </ol>
      <figcaption className="mt-1 text-faint text-xs">
        Heights to scale; a dashed line is the foot of a {capture.device || "desktop"} screen of {capture.screen}{" "}
        pixels.
      </figcaption>
    </figure>
  );
}
