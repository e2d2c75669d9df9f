import { useDeferredValue, useState } from "react";
import { ProblemError, type Schemas } from "../api/client";
import { useBrandEffect } from "../listing/useBrandEffect";
import { useKeep } from "../listing/useKeep";
import { count, share } from "../shared/format";
import { Button } from "../shared/parts";
import { useBrandSuggestions } from "./hooks";
import { Lines, RuleRow } from "./RuleParts";

/** Brand patterns, with suggestions from the site's name and its clicks. */
export function BrandRules({ site }: { site: Schemas["SiteShown"] }) {
  const [patterns, setPatterns] = useState(site.brand_patterns);
  const effect = useBrandEffect(site.slug, useDeferredValue(patterns), true);
  const suggestions = useBrandSuggestions(site.slug, site.last_day !== null);
  const keep = useKeep(site);
  const wrong = effect.error instanceof ProblemError ? effect.error.problem : null;
  const fresh = suggestions.data?.filter((one) => !patterns.includes(one.pattern)) ?? [];
  const changed = JSON.stringify(patterns) !== JSON.stringify(site.brand_patterns);

  return (
    <RuleRow
      title="Brand"
      says="Brand queries get unusually many clicks and would hide the rest, so lists exclude them."
      form={
        <>
          <Lines
            label="Brand queries contain one of these: patterns, one a line"
            value={patterns}
            change={setPatterns}
          />
          {changed && (
            <Button
              disabled={wrong !== null}
              onClick={() => keep({ brand_patterns: patterns }, { brand_patterns: site.brand_patterns })}
            >
              Save the brand patterns
            </Button>
          )}
        </>
      }
    >
      {wrong ? (
        <p className="text-rust">
          {wrong.detail} {wrong.remedy}
        </p>
      ) : (
        effect.data && (
          <>
            <p>
              <strong>{count(effect.data.queries)}</strong> queries are branded, with{" "}
              <strong>{share(effect.data.clicks_share)}</strong> of the last weeks' clicks.
            </p>
            <p className="truncate text-faint text-xs">{effect.data.examples.join(" · ")}</p>
          </>
        )
      )}
      {fresh.map((one) => (
        <p key={one.pattern} className="mt-1">
          <code className="text-xs">{one.pattern}</code> may be a brand: {one.reason}, {count(one.queries)} queries
          {one.ctr !== null &&
            ` with a CTR of ${share(one.ctr)} in first position, where other queries get ${share(one.ctr_of_other_queries)}`}
          .{" "}
          <Button plain onClick={() => setPatterns([...patterns, one.pattern])}>
            add it
          </Button>
        </p>
      ))}
    </RuleRow>
  );
}
