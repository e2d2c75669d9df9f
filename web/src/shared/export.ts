/** An address with what is asked; how a list is sorted and which lens is in the path are not. */
export function withParameters(base: string, asked: Record<string, unknown>): string {
  const parameters = new URLSearchParams();
  for (const [name, value] of Object.entries(asked)) {
    if (["lens", "sort", "descending"].includes(name) || value === undefined) continue;
    for (const one of Array.isArray(value) ? value : [value]) parameters.append(name, String(one));
  }
  return `${base}?${parameters}`;
}

/** Where all that a lens or a diagnosis finds is given as a file. */
export const findingFile = (slug: string, finding: string) => `/api/sites/${slug}/findings/${finding}`;
