// The strip: a page as squares of fifty words, headings as ticks, filled where the phrase occurs. A square opens its words.
import { useState } from "react";
import type { Schemas } from "../api/client";
import { count } from "../shared/format";

const SQUARE = 50;

export function Strip({ answer }: { answer: Schemas["Strip"] }) {
  const [open, setOpen] = useState<number | null>(null);
  const chosen =
    answer.squares.find((one) => one.first === open) ?? answer.squares.find((one) => one.exact || one.other_forms);
  const sayings = answer.sayings.filter((one) => chosen && one.nth >= chosen.first && one.nth < chosen.first + SQUARE);
  return (
    <>
      <Line says={answer.title_says} name="title" text={answer.title} />
      <Line says={answer.heading_says} name="heading" text={answer.heading} />
      <ol className="mt-2 flex flex-wrap gap-y-3" aria-label={`${count(answer.words)} words in squares of fifty`}>
        {answer.squares.map((square) => {
          const tick = answer.headings.find((one) => one.at >= square.first && one.at < square.first + SQUARE);
          const fill = square.exact ? "bg-ink" : square.other_forms ? "bg-ochre" : "bg-shade";
          const words = square.exact ? `${square.exact} exact` : square.other_forms ? "other forms" : "not in it";
          return (
            <li key={square.first} className={tick ? "border-ink border-l-2 pl-px" : "pl-[3px]"}>
              <button
                type="button"
                aria-pressed={chosen === square}
                aria-label={`words ${square.first} to ${square.first + SQUARE - 1}: ${words}${tick ? `; heading: ${tick.text}` : ""}`}
                title={tick ? tick.text : `from word ${square.first}`}
                onClick={() => setOpen(square.first)}
                className={`block size-6 border border-strong-rule ${fill} ${chosen === square ? "outline-2 outline-rust" : ""}`}
              />
            </li>
          );
        })}
      </ol>
      <p className="mt-1 text-faint text-xs">
        Each square is fifty words; a line before it is a heading. Filled: exact phrase. Ochre: other forms.
      </p>
      {chosen ? (
        <blockquote className="mt-2 border-rule border-l-2 pl-3 font-serif leading-snug">
          {sayings.length > 0 ? (
            sayings.map((one) => (
              <p key={one.nth}>
                <Said sentence={one.sentence} phrase={answer.phrase} />{" "}
                <span className="text-faint text-xs">word {one.nth}</span>
              </p>
            ))
          ) : (
            <p>{chosen.text}</p>
          )}
        </blockquote>
      ) : (
        <p className="mt-2">The query is not in the text.</p>
      )}
    </>
  );
}

function Line({ says, name, text }: { says: boolean; name: string; text: string | null }) {
  return (
    <p className="flex items-baseline gap-2">
      <span
        aria-hidden="true"
        className={`inline-block h-2.5 w-8 shrink-0 border border-strong-rule ${says ? "bg-ink" : "bg-shade"}`}
      />
      <span className="w-14 shrink-0 text-faint text-xs">{name}</span>
      <span className="truncate" title={text ?? ""}>
        {text ?? "none"}
      </span>
      <span className="sr-only">{says ? "says it" : "not in it"}</span>
    </p>
  );
}

/** A sentence with the phrase marked, where it occurs as searched. */
function Said({ sentence, phrase }: { sentence: string; phrase: string }) {
  const at = sentence.toLowerCase().indexOf(phrase.toLowerCase());
  if (at < 0) return <>{sentence}</>;
  return (
    <>
      {sentence.slice(0, at)}
      <mark className="bg-picked font-semibold text-ink">{sentence.slice(at, at + phrase.length)}</mark>
      {sentence.slice(at + phrase.length)}
    </>
  );
}
