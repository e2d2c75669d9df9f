// After the first load of search data: is this your brand? Asked once for each site, because the click curve depends on it.
import { useState } from "react";
import type { Schemas } from "../api/client";
import { useKeep } from "../listing/useKeep";
import { count } from "../shared/format";
import { Button } from "../shared/parts";
import { useBrandSuggestions } from "./hooks";

const answered = (slug: string) => `zugzwang-brand-asked-${slug}`;

export function BrandAsk({ site }: { site: Schemas["SiteShown"] }) {
  const keep = useKeep(site);
  const [open, setOpen] = useState(() => localStorage.getItem(answered(site.slug)) === null);
  const wanted = open && site.may_change && site.brand_patterns.length === 0 && site.last_day !== null;
  const suggestions = useBrandSuggestions(site.slug, wanted);
  const first = suggestions.data?.slice(0, 3) ?? [];
  if (!wanted || first.length === 0) return null;

  function close() {
    localStorage.setItem(answered(site.slug), "1");
    setOpen(false);
  }
  return (
    <section aria-label="Brand" className="mt-3 border-ochre border-l-3 bg-sheet px-4 py-2">
      <p className="font-serif text-base">
        Which queries name your brand? They get unusually many clicks, so the click curve excludes them.
      </p>
      <p className="text-faint text-xs">
        {first.map((one) => `“${one.pattern}”: ${one.reason}, ${count(one.queries)} queries`).join("; ")}
      </p>
      <p className="mt-2 flex flex-wrap gap-3">
        <Button
          onClick={async () => {
            if (await keep({ brand_patterns: first.map((one) => one.pattern) }, { brand_patterns: [] })) close();
          }}
        >
          Leave out {first.map((one) => `“${one.pattern}”`).join(", ")}
        </Button>
        <Button onClick={close}>None of these</Button>
      </p>
    </section>
  );
}
