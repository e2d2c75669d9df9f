import { Plus, X } from "lucide-react";
import type { Schemas } from "../api/client";
import { FigureTable } from "../shared/FigureTable";
import { count, path } from "../shared/format";
import { Button } from "../shared/parts";
import { type RulePart, RuleRow } from "./RuleParts";

const EXEMPT: Record<string, string> = { bounce: "bounce rate", queries: "queries" };

const words = (text: string) => text.split(/\s+/).filter(Boolean);

/** Page types: the first whose address pattern or structured data match. */
export function TypeRules({ rules, effect, change }: RulePart) {
  const types = rules.page_types;
  const set = (at: number, part: Partial<Schemas["PageTypeInput"]>) =>
    change({ page_types: types.map((one, index) => (index === at ? { ...one, ...part } : one)) });
  return (
    <RuleRow
      title="Page types"
      says="The first type that matches counts. Contact pages often have high bounce rates: exempt them from bounce checks."
      form={
        <>
          {types.map((one, at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a type is identified by its index while its name is typed
            <fieldset key={at} className="border-rule border-t pt-1.5">
              <legend className="sr-only">{one.name || "a new type"}</legend>
              <div className="flex gap-1.5">
                <Cell
                  label="Name of the type"
                  value={one.name}
                  change={(name) => set(at, { name })}
                  wide="w-24"
                  placeholder="guide"
                />
                <Cell
                  label="Pattern of its addresses"
                  value={(one.patterns ?? []).join("|")}
                  change={(text) => set(at, { patterns: text.trim() ? [text.trim()] : [] })}
                  wide="flex-1"
                  placeholder="/guides/"
                  mono
                />
                <Button
                  plain
                  aria-label={`Delete the type ${one.name}`}
                  onClick={() => change({ page_types: types.filter((_, index) => index !== at) })}
                >
                  <X size={14} />
                </Button>
              </div>
              <div className="mt-1 flex flex-wrap items-center gap-x-3 text-xs">
                <Cell
                  label="Structured data of this type"
                  value={(one.structured_data ?? []).join(" ")}
                  change={(text) => set(at, { structured_data: words(text) })}
                  wide="w-28"
                  placeholder="Product"
                />
                <span className="text-faint">exempt from</span>
                {Object.entries(EXEMPT).map(([name, says]) => {
                  const exempt = one.exempt ?? [];
                  const on = exempt.includes(name as "bounce");
                  return (
                    <label key={name} className="flex min-h-6 items-center gap-1">
                      <input
                        type="checkbox"
                        checked={on}
                        onChange={() =>
                          set(at, {
                            exempt: on ? exempt.filter((other) => other !== name) : [...exempt, name as "bounce"],
                          })
                        }
                      />
                      {says}
                    </label>
                  );
                })}
              </div>
            </fieldset>
          ))}
          <Button
            onClick={() =>
              change({ page_types: [...types, { name: "", patterns: [], structured_data: [], exempt: [] }] })
            }
          >
            <Plus size={14} aria-hidden="true" /> Another type
          </Button>
        </>
      }
    >
      {effect && <Loaded rows={effect.types} none="without a type" thing="pages" shorten />}
    </RuleRow>
  );
}

/** Query groups; a query may be in several. */
export function GroupRules({ rules, effect, change }: RulePart) {
  const groups = rules.query_groups;
  const set = (at: number, part: Partial<Schemas["QueryGroupInput"]>) =>
    change({ query_groups: groups.map((one, index) => (index === at ? { ...one, ...part } : one)) });
  return (
    <RuleRow
      title="Query groups"
      says="Queries that a pattern matches; a query may be in several groups."
      form={
        <>
          {groups.map((one, at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a group is identified by its index while its name is typed
            <div key={at} className="flex gap-1.5">
              <Cell
                label="Name of the group"
                value={one.name}
                change={(name) => set(at, { name })}
                wide="w-24"
                placeholder="hire"
              />
              <Cell
                label="Pattern of its queries"
                value={(one.patterns ?? []).join("|")}
                change={(text) => set(at, { patterns: text.trim() ? [text.trim()] : [] })}
                wide="flex-1"
                placeholder="\b(hire|rental)\b"
                mono
              />
              <Button
                plain
                aria-label={`Delete the group ${one.name}`}
                onClick={() => change({ query_groups: groups.filter((_, index) => index !== at) })}
              >
                <X size={14} />
              </Button>
            </div>
          ))}
          <Button onClick={() => change({ query_groups: [...groups, { name: "", patterns: [] }] })}>
            <Plus size={14} aria-hidden="true" /> Another group
          </Button>
        </>
      }
    >
      {effect && <Loaded rows={effect.groups} none="without a group" thing="queries" />}
    </RuleRow>
  );
}

function Cell(props: {
  label: string;
  value: string;
  change: (value: string) => void;
  wide: string;
  placeholder?: string;
  mono?: boolean;
}) {
  return (
    <input
      aria-label={props.label}
      title={props.label}
      defaultValue={props.value}
      placeholder={props.placeholder}
      spellCheck={false}
      onChange={(event) => props.change(event.target.value)}
      className={`${props.wide} min-w-0 border border-strong-rule bg-sheet px-1.5 py-0.5 ${props.mono ? "font-mono text-xs" : ""}`}
    />
  );
}

function Loaded({
  rows,
  none,
  thing,
  shorten,
}: {
  rows: Schemas["Counted"][];
  none: string;
  thing: string;
  shorten?: boolean;
}) {
  return (
    <FigureTable
      rows={rows}
      keyOf={(row) => row.name}
      columns={[
        {
          head: <span className="sr-only">name</span>,
          width: "w-28",
          look: (row) => `truncate ${row.name ? "" : "text-faint"}`,
          cell: (row) => row.name || none,
        },
        { head: thing, width: "w-20", cell: (row) => count(row.count) },
        { head: "clicks", width: "w-20", cell: (row) => count(row.clicks) },
        {
          head: "most clicked",
          left: true,
          look: "truncate text-faint text-xs",
          title: (row) => row.examples.join("\n"),
          cell: (row) =>
            row.examples
              .slice(0, 3)
              .map((one) => (shorten ? path(one) : one))
              .join(" · "),
        },
      ]}
    />
  );
}
