import { toast } from "sonner";

/** An address with its parameters. */
export function withParameters(base: string, options: Record<string, unknown>): string {
  const parameters = new URLSearchParams();
  for (const [name, value] of Object.entries(options)) {
    if (value === undefined) continue;
    for (const one of Array.isArray(value) ? value : [value]) parameters.append(name, String(one));
  }
  return `${base}?${parameters}`;
}

/** Download a file; errors are shown in place, never as a page of their own. */
export async function download(address: string): Promise<void> {
  try {
    const answer = await fetch(address);
    if (!answer.ok) {
      const problem = await answer.json().catch(() => null);
      throw new Error(problem ? `${problem.detail} ${problem.remedy}` : "The file is not available. Try again.");
    }
    const link = document.createElement("a");
    link.href = URL.createObjectURL(await answer.blob());
    link.download = /filename="([^"]+)"/.exec(answer.headers.get("Content-Disposition") ?? "")?.[1] ?? "file";
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
  } catch (error) {
    toast.error(error instanceof TypeError ? "No answer from the server. Try again." : (error as Error).message);
  }
}

/** The address of a finding's complete list. */
export const findingFile = (slug: string, finding: string) => `/api/sites/${slug}/findings/${finding}/file`;
