// Marks on passages with a writing problem.
import { Extension } from "@tiptap/core";
import type { Node } from "@tiptap/pm/model";
import { Plugin, PluginKey } from "@tiptap/pm/state";
import { Decoration, DecorationSet } from "@tiptap/pm/view";

export type Fault = { kind: string; quote: string; words: string };
const key = new PluginKey<DecorationSet>("faults");
export const FAULTS = "faults";

export const FaultMarks = Extension.create({
  name: "faultMarks",
  addProseMirrorPlugins: () => [
    new Plugin<DecorationSet>({
      key,
      state: {
        init: () => DecorationSet.empty,
        apply: (change, now) => {
          const faults = change.getMeta(FAULTS) as Fault[] | undefined;
          return faults ? marksOf(change.doc, faults) : now.map(change.mapping, change.doc);
        },
      },
      props: { decorations: (state) => key.getState(state) },
    }),
  ],
});

function marksOf(doc: Node, faults: Fault[]): DecorationSet {
  const answer: Decoration[] = [];
  doc.descendants((node, position) => {
    if (!node.isTextblock) return true;
    const text = node.textBetween(0, node.content.size, undefined, " ");
    for (const { kind, quote, words } of faults) {
      const at = quote ? text.indexOf(quote) : -1;
      if (at < 0) continue;
      const from = position + 1 + at;
      answer.push(
        Decoration.inline(from, from + quote.length, {
          class: `fault fault-${kind.replaceAll(" ", "-")}`,
          title: words,
        }),
      );
    }
    return false;
  });
  return DecorationSet.create(doc, answer);
}

/** The position of a passage; null once it is gone. */
export function placeOf(doc: Node, quote: string): { from: number; to: number } | null {
  let found: { from: number; to: number } | null = null;
  doc.descendants((node, position) => {
    if (found || !node.isTextblock) return !found;
    const at = node.textBetween(0, node.content.size, undefined, " ").indexOf(quote);
    if (at >= 0) found = { from: position + 1 + at, to: position + 1 + at + quote.length };
    return false;
  });
  return found;
}
