/** An address with what is asked. */
export function withParameters(base: string, asked: Record<string, unknown>): string {
  const parameters = new URLSearchParams();
  for (const [name, value] of Object.entries(asked)) {
    if (value === undefined) continue;
    for (const one of Array.isArray(value) ? value : [value]) parameters.append(name, String(one));
  }
  return `${base}?${parameters}`;
}

/** Where all that a finding finds is given as a file. */
export const findingFile = (slug: string, finding: string) => `/api/sites/${slug}/findings/${finding}/file`;
