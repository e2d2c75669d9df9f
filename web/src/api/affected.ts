// Which answers a change makes out of date.
import type { QueryKey } from "@tanstack/react-query";

/** Parts of a site that few others follow from. A change of any other part may change every answer about the site. */
const FOLLOWERS: Record<string, readonly string[]> = {
  views: [],
  help: [],
  reports: [],
  jobs: [],
  archive: ["jobs"],
  invitations: ["members", "people"],
  connections: ["sources", "jobs", "help"],
};
const ACCOUNT = ["/api/account", "/api/session"];
const partOf = (path: string) => path.match(/^\/api\/sites\/[^/]+\/([^/]+)/)?.[1];

/** Whether the answer of a query may differ after a change at the address. Keys are those of `ask` and of findings. */
export function affected(address: string): (query: { queryKey: QueryKey }) => boolean {
  const changed = new URL(address, "http://any").pathname;
  const ofAccount = ACCOUNT.some((start) => changed.startsWith(start));
  const part = partOf(changed);
  const followers = part === undefined ? undefined : FOLLOWERS[part];
  return ({ queryKey: [kind, path] }) => {
    const asked = kind === "get" ? String(path) : "";
    const isAccount = ACCOUNT.some((start) => asked.startsWith(start));
    if (ofAccount || isAccount) return ofAccount && isAccount;
    if (!followers) return true;
    const about = partOf(asked);
    return about !== undefined && (about === part || about === "audit" || followers.includes(about));
  };
}
