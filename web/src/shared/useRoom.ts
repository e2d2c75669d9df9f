// How much room the window has: two panes side by side, one list with its evidence between the rows, or a phone.
import { useSyncExternalStore } from "react";

export type Room = "wide" | "narrow" | "phone";

const WIDE = matchMedia("(min-width: 820px)");
const NARROW = matchMedia("(min-width: 640px)");
const now = (): Room => (WIDE.matches ? "wide" : NARROW.matches ? "narrow" : "phone");

function follow(changed: () => void) {
  for (const query of [WIDE, NARROW]) query.addEventListener("change", changed);
  return () => {
    for (const query of [WIDE, NARROW]) query.removeEventListener("change", changed);
  };
}

export const useRoom = (): Room => useSyncExternalStore(follow, now);
