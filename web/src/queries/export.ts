import type { ListAsked } from "../state/search";

/** The address that gives the whole list as CSV. */
export function exportAddress(slug: string, asked: ListAsked): string {
  const parameters = new URLSearchParams();
  for (const [name, value] of Object.entries(asked)) {
    for (const one of Array.isArray(value) ? value : [value]) parameters.append(name, String(one));
  }
  return `/api/sites/${slug}/queries.csv?${parameters}`;
}
