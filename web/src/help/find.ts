// Search in the guide, the rules and the terms: every page with all typed words, and its first line with one.
export type HelpPage = { group: "Guide" | "How it's calculated" | "Words"; name: string; title: string; text: string };
export type Hit = HelpPage & { line: string };

const plain = (text: string) => text.replace(/!\[[^\]]*\]\([^)]*\)/g, "").replace(/\]\([^)]*\)|[#*`[\]|]/g, "");

export function findIn(pages: readonly HelpPage[], typed: string): Hit[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return [];
  const hits = pages.flatMap((page) => {
    const text = plain(page.text);
    const whole = `${page.title}\n${text}`.toLowerCase();
    if (!words.every((word) => whole.includes(word))) return [];
    const sentences = text.split(/(?<=[.?!:])\s+/);
    const line = sentences.find((one) => words.some((word) => one.toLowerCase().includes(word))) ?? sentences[0] ?? "";
    return [{ ...page, line: line.replace(/\s+/g, " ").trim().slice(0, 160) }];
  });
  const titled = (hit: Hit) => words.some((word) => hit.title.toLowerCase().includes(word));
  return [...hits.filter(titled), ...hits.filter((hit) => !titled(hit))];
}
