// What is chosen for a table before it is loaded.
import type { Schemas } from "../api/client";
import { many } from "../shared/format";
import type { Source } from "./names";

export type Chosen = {
  source: Source;
  mapping: Record<string, number>;
  choices: Schemas["ChoicesMade"];
  skip: boolean;
};

export function rowsAbout(table: Schemas["TableSeen"]): string {
  return `About ${many(table.rows_about, "row")}.`;
}
