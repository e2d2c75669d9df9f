/** The address that gives all that a lens or a diagnosis finds as a file. */
export function exportAddress(slug: string, finding: string, asked: Record<string, unknown>): string {
  const parameters = new URLSearchParams();
  for (const [name, value] of Object.entries(asked)) {
    if (["lens", "sort", "descending"].includes(name)) continue;
    for (const one of Array.isArray(value) ? value : [value]) parameters.append(name, String(one));
  }
  return `/api/sites/${slug}/findings/${finding}?${parameters}`;
}
