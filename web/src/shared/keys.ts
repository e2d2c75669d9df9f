// Single-key shortcuts, silent while the reader types or a dialog is open.
import { useEffect, useRef } from "react";

export const KEYS: [string, string][] = [
  ["1", "Intake: load data"],
  ["2", "Standing: where the site stands"],
  ["3", "Pages"],
  ["4", "Queries"],
  ["5", "Clashes"],
  ["6", "Wording: what pages say"],
  ["7", "Links between pages"],
  ["8", "Topics"],
  ["9", "Drafts"],
  ["0", "Moves: what was decided, and what came of it"],
  ["j or ↓", "next row"],
  ["k or ↑", "previous row"],
  ["Enter", "open the page's file"],
  ["m", "make a move of the row, or of the marked ones"],
  ["x", "leave it alone, with a reason"],
  ["s", "set it aside until a day"],
  ["a", "take the suggested link, and go on to the next"],
  ["r", "refuse the suggested link, with a reason"],
  ["d", "begin a draft of the page, or of the page to write"],
  ["space", "mark the row, to decide on several at once"],
  ["Esc", "clear the marks"],
  ["/", "search in queries and pages"],
  ["f", "filters"],
  ["p", "period"],
  ["b", "brand patterns"],
  ["e", "export the list"],
  ["t", "light or dark"],
  ["Ctrl or ⌘ K", "commands, saved views, any page or query"],
  ["?", "all keys"],
];

type Actions = Record<string, (event: KeyboardEvent) => void>;

let act = true;
/** Whether keys of one letter act; whoever speaks to the machine, or slips easily, turns them off (WCAG 2.1.4). */
export const lettersAct = () => act;
export function letLettersAct(wanted: boolean): void {
  act = wanted;
}
const isLetter = (key: string) => key.length === 1 && key !== " ";

/**
 * Act on single keys. `inside`: only where the focus is in there or nowhere, for keys that scroll belong to the pane that has
 * it.
 */
export function useKeys(actions: Actions, inside?: string): void {
  const latest = useRef(actions);
  latest.current = actions;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return;
      const target = event.target as HTMLElement;
      if (target.closest("input, textarea, select, [contenteditable=true], [role=dialog], [role=menu], [role=listbox]"))
        return;
      // Enter and the space bar belong to whatever button or link they are pressed on.
      if ("Enter ".includes(event.key) && target.closest("button, a, summary, [role=slider]")) return;
      if (isLetter(event.key) && !lettersAct()) return;
      if (inside && target !== document.body && !target.closest(inside)) return;
      const action = latest.current[event.key];
      if (!action) return;
      event.preventDefault();
      action(event);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [inside]);
}
