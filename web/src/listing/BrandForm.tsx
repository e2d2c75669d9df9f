// Brand patterns, edited in place: their effect shows while they are typed.
import { type FormEvent, useDeferredValue, useState } from "react";
import { ProblemError, type Schemas } from "../api/client";
import { count, share } from "../shared/format";
import { MainButton } from "../shared/parts";
import { useBrandEffect } from "./useBrandEffect";
import { useKeep } from "./useKeep";

export function BrandForm({ site, close }: { site: Schemas["SiteShown"]; close: () => void }) {
  const keep = useKeep(site);
  const [text, setText] = useState(site.brand_patterns.join("\n"));
  const patterns = useDeferredValue(text)
    .split("\n")
    .map((line) => line.trim())
    .filter(Boolean);
  const effect = useBrandEffect(site.slug, patterns, true);
  const wrong = effect.error instanceof ProblemError ? effect.error.problem : null;

  async function submit(event: FormEvent) {
    event.preventDefault();
    if (await keep({ brand_patterns: patterns }, { brand_patterns: site.brand_patterns })) close();
  }

  return (
    <form onSubmit={submit} className="space-y-3">
      <label className="block">
        <span className="mb-0.5 block text-faint">Brand queries contain one of these: one pattern a line</span>
        <textarea
          value={text}
          onChange={(event) => setText(event.target.value)}
          rows={4}
          spellCheck={false}
          placeholder="a word of the name, or a regular expression"
          className="w-full border border-strong-rule bg-paper px-2 py-1 font-mono text-xs"
        />
      </label>
      <div aria-live="polite" className="min-h-16">
        {wrong ? (
          <p className="text-rust">
            {wrong.detail} {wrong.remedy}
          </p>
        ) : (
          effect.data && (
            <>
              <p>
                Leaves out <strong>{count(effect.data.queries)}</strong> queries with{" "}
                <strong>{share(effect.data.clicks_share)}</strong> of the last weeks' clicks.
              </p>
              {effect.data.examples.length > 0 && <p className="text-faint">{effect.data.examples.join(" · ")}</p>}
            </>
          )
        )}
      </div>
      {site.may_change ? (
        <MainButton type="submit" disabled={wrong !== null}>
          Save for this site
        </MainButton>
      ) : (
        <p className="text-faint">You may look at this site but not change it; ask an analyst of the site.</p>
      )}
    </form>
  );
}
