import { ExternalLink } from "lucide-react";
import { path } from "./format";

/** The path of a page, which opens the page in a new tab. */
export function PageLink({ address }: { address: string }) {
  return (
    <a
      href={address}
      target="_blank"
      rel="noreferrer"
      title={address}
      className="inline-flex min-h-6 max-w-full items-center gap-1 text-faint hover:text-ink"
    >
      <span className="truncate">{path(address)}</span>
      <ExternalLink size={11} aria-label="opens the page in a new tab" className="shrink-0" />
    </a>
  );
}
