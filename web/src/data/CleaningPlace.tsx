// Cleaning rules, each with its current effect; nothing applies before it is saved, and every version can be restored.
import { useDeferredValue, useEffect, useState } from "react";
import { api } from "../api/client";
import { useSite } from "../frame/useSite";
import { count, moment } from "../shared/format";
import { Button, Failed, MainButton } from "../shared/parts";
import { useAct } from "../shared/useAct";
import { AddressRules, LeftOutRules, OwnVisitRules } from "./AddressRules";
import { BrandRules } from "./BrandRules";
import { DataHead } from "./DataHead";
import { type Rules, useRuleChanges, useRules, useRulesEffect } from "./hooks";
import { GroupRules, TypeRules } from "./KindRules";

export function CleaningPlace() {
  const { slug, site } = useSite();
  const current = useRules(slug);
  const [draft, setDraft] = useState<Rules | null>(null);
  useEffect(() => {
    if (current.data) setDraft(current.data);
  }, [current.data]);
  const effect = useRulesEffect(slug, useDeferredValue(draft ? begun(draft) : undefined));
  const act = useAct();

  if (!site) return null;
  if (current.error) return <Failed error={current.error} retry={() => current.refetch()} />;
  if (!draft || !current.data) return null;
  const changed = JSON.stringify(draft) !== JSON.stringify(current.data);
  const part = { rules: draft, effect: effect.data, change: (some: Partial<Rules>) => setDraft({ ...draft, ...some }) };
  const says = effect.data
    ? `${count(effect.data.pages)} addresses are known; under these rules they are ${count(effect.data.pages_counting)} pages.`
    : "Which addresses are one page, which are excluded, and the type of each page.";

  return (
    <>
      <DataHead says={says} />
      <div className="min-h-0 flex-1 overflow-auto">
        <div className="min-h-full max-w-6xl px-4 pt-3 pb-8">
          {effect.error && (
            <p role="alert" className="mt-3 border-rust border-l-3 bg-sheet px-4 py-2 text-rust">
              {effect.error.detail}
            </p>
          )}
          <fieldset disabled={!site.may_change} className="contents">
            <AddressRules {...part} />
            <LeftOutRules {...part} />
            <TypeRules {...part} />
            <GroupRules {...part} />
            <BrandRules site={site} />
            <OwnVisitRules {...part} />
          </fieldset>
          <Changes slug={slug} mayChange={site.may_change} />
        </div>
        {changed && site.may_change && (
          <div className="sticky bottom-0 z-20 flex items-center justify-end gap-3 border-ink border-t bg-sheet px-6 py-2.5">
            <span className="text-faint">These rules are not saved yet.</span>
            <Button onClick={() => setDraft(current.data)}>Discard changes</Button>
            <MainButton
              disabled={effect.isError}
              onClick={() =>
                act(
                  () => api.PUT("/api/sites/{slug}/rules", { params: { path: { slug } }, body: begun(draft) }),
                  "Saved for everyone on this site.",
                )
              }
            >
              Save these rules
            </MainButton>
          </div>
        )}
      </div>
    </>
  );
}

/** The rules without unnamed types and groups, which are still being entered. */
const begun = (rules: Rules): Rules => ({
  ...rules,
  page_types: rules.page_types.filter((one) => one.name.trim()),
  query_groups: rules.query_groups.filter((one) => one.name.trim() && one.patterns.length),
});

function Changes({ slug, mayChange }: { slug: string; mayChange: boolean }) {
  const changes = useRuleChanges(slug);
  const act = useAct();
  if (!changes.data?.length) return null;
  return (
    <section className="mt-6">
      <h2 className="border-ink border-b pb-1 text-lg">History of the rules</h2>
      <ul>
        {changes.data.map((one) => (
          <li key={one.id} className="flex items-baseline gap-3 border-rule border-b py-1">
            <span className="w-36 shrink-0 text-faint">{moment(one.made_at)}</span>
            <span className="flex-1">
              {one.words}
              {one.by && <span className="text-faint">, by {one.by}</span>}
            </span>
            {mayChange && (
              <Button
                plain
                onClick={() =>
                  act(
                    () =>
                      api.POST("/api/sites/{slug}/rules/changes/{change_id}/restore", {
                        params: { path: { slug, change_id: one.id } },
                      }),
                    "The rules from before that change are restored.",
                  )
                }
              >
                Restore these rules
              </Button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
