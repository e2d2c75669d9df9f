import { toast } from "sonner";

/** An address with what is asked. */
export function withParameters(base: string, asked: Record<string, unknown>): string {
  const parameters = new URLSearchParams();
  for (const [name, value] of Object.entries(asked)) {
    if (value === undefined) continue;
    for (const one of Array.isArray(value) ? value : [value]) parameters.append(name, String(one));
  }
  return `${base}?${parameters}`;
}

/** Fetch a file and hand it to the reader; what goes wrong is reported in place, never as a page of its own. */
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

/** Where all that a finding finds is given as a file. */
export const findingFile = (slug: string, finding: string) => `/api/sites/${slug}/findings/${finding}/file`;
