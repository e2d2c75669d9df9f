import type { ListAsked } from "../state/search";

/** The address that gives the whole list as a file. */
export function exportAddress(slug: string, asked: ListAsked): string {
  const parameters = new URLSearchParams();
  for (const [name, value] of Object.entries(asked)) {
    if (["lens", "sort", "descending"].includes(name)) continue;
    for (const one of Array.isArray(value) ? value : [value]) parameters.append(name, String(one));
  }
  return `/api/sites/${slug}/findings/${asked.lens ?? "low-ctr"}?${parameters}`;
}
