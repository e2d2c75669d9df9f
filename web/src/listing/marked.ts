// The rows of a list that are marked, to be decided on together.
import { createContext, type ReactNode, useContext } from "react";
import type { Schemas } from "../api/client";

export type Subject = Schemas["SubjectInput"];
export type Marked = { keys: ReadonlySet<string>; set: (keys: ReadonlySet<string>) => void };

export const MarkedRows = createContext<Marked | null>(null);
/** In a small window, what is right under the chosen row in place of a pane of its own. */
export const UnderChosen = createContext<ReactNode>(null);
export const useMarked = () => useContext(MarkedRows);
