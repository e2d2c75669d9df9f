// A title and a description as on a SERP, editable with live lengths.
import { useEffect, useState } from "react";
import "@fontsource/arimo/latin-400.css";
import "@fontsource/arimo/latin-ext-400.css";

const LIMITS = { title: { size: 20, cut: 600, letters: 60 }, description: { size: 14, cut: 960, letters: 160 } };
type Snippets = { title: string; description: string };
type Props = { address: string; words: Snippets; set: (part: Partial<Snippets>) => void; fixed?: boolean };

export function Snippet({ address, words, set, fixed = false }: Props) {
  // Widths are measured in the typeface of SERPs, once it is loaded.
  const [, setFace] = useState(false);
  useEffect(() => {
    document.fonts.load("20px Arimo").then(() => setFace(true));
  }, []);
  return (
    <>
      <div className="border border-rule bg-sheet px-3 py-2">
        <p className="truncate text-faint text-xs">{address.replace(/^https?:\/\//, "")}</p>
        <Cut text={words.title || "No title"} of="title" className="text-xl leading-6" />
        <Cut text={words.description || "No description"} of="description" className="text-sm leading-5" />
      </div>
      <Rewritten name="title" value={words.title} set={(title) => set({ title })} fixed={fixed} />
      <Rewritten
        name="description"
        value={words.description}
        set={(description) => set({ description })}
        fixed={fixed}
      />
    </>
  );
}

/** The visible part of a text; what is cut off is struck through. */
function Cut({ text, of, className }: { text: string; of: keyof typeof LIMITS; className: string }) {
  const { size, cut } = LIMITS[of];
  return (
    <p
      className={`overflow-hidden break-words font-[Arimo] ${className}`}
      style={{ maxWidth: of === "title" ? cut : undefined }}
    >
      <span className={of === "title" ? "block truncate" : "line-clamp-2"}>{text}</span>
      {widthOf(text, size) > cut && <span className="text-rust text-xs">cut off here</span>}
    </p>
  );
}

let canvas: CanvasRenderingContext2D | null | undefined;
/** The approximate width of a text in pixels, in the usual typeface of SERPs. */
function widthOf(text: string, size: number): number {
  canvas ??= document.createElement("canvas").getContext("2d");
  if (!canvas) return 0;
  canvas.font = `${size}px Arimo, Arial, sans-serif`;
  return canvas.measureText(text).width;
}

function Rewritten({
  name,
  value,
  set,
  fixed,
}: {
  name: keyof typeof LIMITS;
  value: string;
  set: (text: string) => void;
  fixed: boolean;
}) {
  const { size, cut, letters } = LIMITS[name];
  const pixels = widthOf(value, size);
  const over = pixels > cut;
  return (
    <label className="mt-2 block">
      <span className="flex justify-between gap-x-3 text-faint text-xs">
        <span>{name}</span>
        <span className={over ? "text-rust" : ""}>
          {value.length} letters of about {letters}, {Math.round(pixels)} of {cut} pixels{over && ": cut off"}
        </span>
      </span>
      <textarea
        value={value}
        readOnly={fixed}
        rows={name === "title" ? 2 : 3}
        maxLength={5000}
        onChange={(event) => set(event.target.value)}
        className="w-full border border-strong-rule bg-sheet px-2 py-1"
      />
    </label>
  );
}
