// The rows of a list that are marked, to be decided on together.
import { createContext, useContext } from "react";
import type { Schemas } from "../api/client";

export type Subject = Schemas["SubjectGiven"];
export type Marked = { keys: ReadonlySet<string>; set: (keys: ReadonlySet<string>) => void };

export const MarkedRows = createContext<Marked | null>(null);
export const useMarked = () => useContext(MarkedRows);
