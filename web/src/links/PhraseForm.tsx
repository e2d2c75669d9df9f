// Phrases to search, one a line: typed or pasted.
import { type FormEvent, useState } from "react";
import { Opening } from "../shared/Dialog";
import { Button, MainButton, Words } from "../shared/parts";
import type { ListSearch } from "../state/view";

const MOST = 250;

export function PhraseForm({ search, change }: { search: ListSearch; change: (part: Partial<ListSearch>) => void }) {
  const [open, setOpen] = useState(false);
  const typed = search.phrase ?? [];
  function look(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const lines = String(form.get("phrases") ?? "").split(/\n|;|\t/);
    const phrases = [...new Set(lines.map((one) => one.trim().slice(0, 200)).filter(Boolean))].slice(0, MOST);
    change({ phrase: phrases.length ? phrases : undefined, forms: form.get("exact") ? "exact" : undefined });
    setOpen(false);
  }
  return (
    <span className="inline-flex flex-wrap items-baseline gap-x-3 text-xs">
      <Opening
        name="Phrases to look for"
        open={open}
        onOpen={setOpen}
        label={
          typed.length
            ? `Looking for ${typed.length === 1 ? `“${typed[0]}”` : `${typed.length} phrases`}`
            : "Search your own phrases"
        }
      >
        <form onSubmit={look} className="space-y-3">
          <Words
            label={`phrases, one a line (${MOST} at most)`}
            name="phrases"
            rows={6}
            defaultValue={typed.join("\n")}
            maxLength={50_000}
          />
          <label className="flex min-h-6 items-center gap-1.5">
            <input type="checkbox" name="exact" defaultChecked={search.forms === "exact"} /> exactly as written
          </label>
          <MainButton type="submit">Search</MainButton>
        </form>
      </Opening>
      {typed.length > 0 && (
        <Button plain onClick={() => change({ phrase: undefined, forms: undefined })}>
          Back to main queries
        </Button>
      )}
    </span>
  );
}
