// The marked rows of a list, for one decision on all.
import { createContext, type ReactNode, useContext } from "react";
import type { Schemas } from "../api/client";

export type Subject = Schemas["SubjectInput"];
export type Marked = { keys: ReadonlySet<string>; set: (keys: ReadonlySet<string>) => void };

export const MarkedRows = createContext<Marked | null>(null);
/** In a small window, the content below the chosen row, which replaces the pane. */
export const UnderChosen = createContext<ReactNode>(null);
export const useMarked = () => useContext(MarkedRows);
