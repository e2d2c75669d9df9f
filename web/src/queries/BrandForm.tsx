// Brand patterns, edited on the spot: what they would leave out shows while they are typed.
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useDeferredValue, useState } from "react";
import { toast } from "sonner";
import { api, ProblemError, type Schemas } from "../api/client";
import { useBrandEffect } from "../api/hooks";
import { count, share } from "../shared/format";
import { MainButton } from "../shared/parts";

export function BrandForm({ site, close }: { site: Schemas["SiteShown"]; close: () => void }) {
  const queryClient = useQueryClient();
  const [text, setText] = useState(site.brand_patterns.join("\n"));
  const patterns = useDeferredValue(text)
    .split("\n")
    .map((line) => line.trim())
    .filter(Boolean);
  const effect = useBrandEffect(site.slug, patterns, true);
  const wrong = effect.error instanceof ProblemError ? effect.error.problem : null;

  async function keep(event: FormEvent) {
    event.preventDefault();
    const before = site.brand_patterns;
    const save = async (brand_patterns: string[]) => {
      await api.PATCH("/api/sites/{slug}", { params: { path: { slug: site.slug } }, body: { brand_patterns } });
      await queryClient.invalidateQueries();
    };
    try {
      await save(patterns);
      close();
      toast("Brand patterns kept for everyone on this site.", {
        action: { label: "Undo", onClick: () => save(before) },
      });
    } catch (error) {
      toast.error((error as ProblemError).message);
    }
  }

  return (
    <form onSubmit={keep} className="space-y-3">
      <label className="block">
        <span className="mb-0.5 block text-faint">Queries with any of these are branded: one pattern a line</span>
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
          Keep for this site
        </MainButton>
      ) : (
        <p className="text-faint">You may look at this site but not change it; ask an analyst of the site.</p>
      )}
    </form>
  );
}
