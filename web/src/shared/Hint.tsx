// A sentence about a word, on hover and on keyboard focus.
import { Tooltip } from "radix-ui";
import type { ReactNode } from "react";
import { TERMS } from "../api/catalog.generated";

/** `children` must be one focusable element, such as a button. */
export function Hint({ text, children }: { text: string; children: ReactNode }) {
  return (
    <Tooltip.Root delayDuration={350}>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={4}
          collisionPadding={8}
          className="z-50 max-w-72 border border-strong-rule bg-sheet px-2 py-1 text-ink text-xs shadow-lg"
        >
          {text}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}

type Term = keyof typeof TERMS;
/** The meaning of one of our own terms; undefined for a term of the trade. */
export const meaningOf = (word: string): string | undefined => (TERMS as Record<string, string>)[word];

/** One of our own terms where it first appears: dotted underline, meaning as a tooltip. */
export function Meaning({ of, children }: { of: Term; children?: ReactNode }) {
  return (
    <Hint text={TERMS[of]}>
      <button type="button" className="cursor-help underline decoration-dotted underline-offset-3">
        {children ?? of}
      </button>
    </Hint>
  );
}
