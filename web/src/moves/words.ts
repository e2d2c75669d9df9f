// Labels of efforts and states.
import type { Schemas } from "../api/client";
import { STATES } from "../state/view";

export type Move = Schemas["MoveFile"];
export type Effort = Move["effort"];
export type State = Move["state"];

export const EFFORTS: Record<Effort, string> = { hour: "an hour", day: "a day", week: "a week" };
export const ALL_STATES = STATES.filter((one) => one !== "open") as State[];
