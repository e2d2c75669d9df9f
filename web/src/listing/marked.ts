// The marked rows of a list, for one decision on all.
import { createContext, type ReactNode, useContext } from "react";
import type { Schemas } from "../api/client";

export type Subject = Schemas["SubjectInput"];
export type Marked = { keys: ReadonlySet<string>; set: (keys: ReadonlySet<string>) => void };

export const MarkedRows = createContext<Marked | null>(null);
/** In a small window, the evidence of the chosen row: below the row, or on a phone over the list. */
export const EvidenceHere = createContext<{ content: ReactNode; over: boolean } | null>(null);
export const useMarked = () => useContext(MarkedRows);
