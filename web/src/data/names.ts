// Labels of kinds of tables and their fields: what their declarations say.
import { KINDS } from "../api/catalog.generated";

export type Source = keyof typeof KINDS;
export const SOURCES: Record<Source, { title: string; holds: string; fields: Record<string, string> }> = KINDS;
export const fieldWord = (source: Source, name: string) => SOURCES[source].fields[name] ?? name;
