// Single-key shortcuts, inactive while the person types or a dialog is open.
import { useEffect, useRef } from "react";

export const KEYS: [string, string][] = [
  ["j or ↓", "Next row"],
  ["k or ↑", "Previous row"],
  ["Enter", "Open the page file"],
  ["m", "Make a move of the row, or of all selected rows"],
  ["x", "Dismiss, with a reason"],
  ["s", "Snooze until a day"],
  ["a", "Accept the suggested link and go to the next"],
  ["r", "Refuse the suggested link, with a reason"],
  ["d", "Start a draft"],
  ["space", "Select the row, to decide on several at once"],
  ["Esc", "Clear the selection"],
  ["/", "Search queries and pages"],
  ["f", "Filters"],
  ["p", "Period"],
  ["b", "Brand patterns"],
  ["e", "Export the list"],
  ["t", "Light or dark theme"],
  ["Ctrl or ⌘ K", "Commands, saved views, any page or query"],
  ["?", "All shortcuts"],
];

type Actions = Record<string, (event: KeyboardEvent) => void>;

let act = true;
/** Whether single-letter keys are active; people who use speech input or press keys by accident can turn them off (WCAG
 * 2.1.4). */
export const lettersAct = () => act;
export function letLettersAct(wanted: boolean): void {
  act = wanted;
}
const isLetter = (key: string) => key.length === 1 && key !== " ";

/**
 * Act on single keys. `inside`: only where the focus is in there or nowhere, because scrolling keys belong to the focused pane.
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
      // Enter and the space bar belong to the focused button or link.
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
