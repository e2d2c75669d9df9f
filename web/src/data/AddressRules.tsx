import { FigureTable } from "../shared/FigureTable";
import { count, many, path, plural, share } from "../shared/format";
import { Button, Choice } from "../shared/parts";

import { exactly, Lines, type RulePart, RuleRow } from "./RuleParts";

const SLASHES: [RulePart["rules"]["slash"], string][] = [
  ["seen", "merged where both occur, as the crawl or most addresses show"],
  ["with", "always with"],
  ["without", "always without"],
  ["separate", "never merged"],
];
const SHOWN = 8;

/** Rules that merge addresses of one page. */
export function AddressRules({ rules, effect, change }: RulePart) {
  return (
    <RuleRow
      title="One page, one address"
      says="Data of merged URLs are added up; the original URLs are saved."
      form={
        <>
          <Lines
            label="Parameters that are dropped, one a line; * matches anything"
            value={rules.drop_parameters}
            change={(drop_parameters) => change({ drop_parameters })}
            rows={3}
          />
          <label className="flex min-h-6 items-center gap-2">
            <input type="checkbox" checked={rules.fold_host} onChange={() => change({ fold_host: !rules.fold_host })} />
            http, https and www. are the site's own
          </label>
          <Lines
            label="Former hosts of the site, one a line"
            value={rules.former_hosts}
            change={(former_hosts) => change({ former_hosts })}
          />
          <Choice
            label="Trailing slash"
            value={rules.slash}
            onChange={(event) => change({ slash: event.target.value as RulePart["rules"]["slash"] })}
          >
            {SLASHES.map(([value, says]) => (
              <option key={value} value={value}>
                {says}
              </option>
            ))}
          </Choice>
          <Lines
            label="Addresses that are never merged: patterns"
            value={rules.separate}
            change={(separate) => change({ separate })}
          />
        </>
      }
    >
      {effect && (
        <>
          <p>
            <strong>{count(effect.folded)}</strong> {plural(effect.folded, "address counts", "addresses count")} as
            another
            {Object.keys(effect.folded_by_reason).length > 0 &&
              `: ${Object.entries(effect.folded_by_reason)
                .map(([reason, number]) => `${reason} ${count(number)}`)
                .join(", ")}`}
            .
          </p>
          {effect.folded_examples.length > 0 && (
            <FigureTable
              className="mt-1 text-xs"
              rows={effect.folded_examples.slice(0, SHOWN)}
              keyOf={(one) => one.from}
              columns={[
                {
                  head: "address",
                  width: "w-[38%]",
                  look: "truncate",
                  title: (one) => one.from,
                  cell: (one) => path(one.from),
                },
                {
                  head: "counts as",
                  width: "w-[28%]",
                  look: "truncate",
                  left: true,
                  title: (one) => one.to,
                  cell: (one) => path(one.to),
                },
                {
                  head: "because of",
                  look: "truncate text-faint",
                  left: true,
                  cell: (one) => one.reasons.join(", "),
                },
                { head: "clicks", width: "w-14", cell: (one) => count(one.clicks) },
                {
                  head: <span className="sr-only">undo</span>,
                  width: "w-20",
                  left: true,
                  cell: (one) => (
                    <Button plain onClick={() => change({ separate: [...rules.separate, exactly(one.from)] })}>
                      keep separate
                    </Button>
                  ),
                },
              ]}
            />
          )}
          {effect.folded > SHOWN && <p className="text-faint text-xs">and {count(effect.folded - SHOWN)} more.</p>}
        </>
      )}
    </RuleRow>
  );
}

/** Pages to exclude. */
export function LeftOutRules({ rules, effect, change }: RulePart) {
  const left = effect?.left_out ?? 0;
  const hosts = effect?.hosts.filter((one) => one.host) ?? [];
  return (
    <RuleRow
      title="Left out"
      says="Staging copies and utility pages. Their data stay stored but count nowhere."
      form={
        <Lines
          label="Excluded addresses: patterns, one a line"
          value={rules.left_out}
          change={(left_out) => change({ left_out })}
          rows={3}
          placeholder="//staging\."
        />
      }
    >
      {effect && (
        <>
          <p>
            <strong>{count(left)}</strong> {plural(left, "page is", "pages are")} left out
            {left > 0 && ` with ${share(effect.left_out_clicks_share)} of all clicks`}.
          </p>
          <p className="truncate text-faint text-xs">
            {effect.left_out_examples
              .slice(0, SHOWN)
              .map((one) => one.text.replace(/^https?:\/\//, ""))
              .join(" · ")}
          </p>
          {hosts.map((one) => (
            <p key={one.host} className="mt-1">
              {one.host}: {many(one.pages, "page")}, {count(one.clicks)} {plural(one.clicks, "click")}.{" "}
              {!rules.left_out.includes(`//${(one.host ?? "").replaceAll(".", "\\.")}/`) && (
                <Button
                  plain
                  onClick={() =>
                    change({ left_out: [...rules.left_out, `//${(one.host ?? "").replaceAll(".", "\\.")}/`] })
                  }
                >
                  exclude this host
                </Button>
              )}
            </p>
          ))}
        </>
      )}
    </RuleRow>
  );
}

/** Visits by the site's own people, and hosts whose visits are organic. */
export function OwnVisitRules({ rules, change }: RulePart) {
  return (
    <RuleRow
      title="Visits"
      says="They apply from the next load of an access log or a file with network addresses."
      form={
        <Lines
          label="Networks of your own staff, one a line"
          value={rules.own_networks}
          change={(own_networks) => change({ own_networks })}
          placeholder="192.0.2.0/24"
        />
      }
    >
      <Lines
        label="Hosts of search engines: patterns. In access logs, visits from them are organic."
        value={rules.search_hosts}
        change={(search_hosts) => change({ search_hosts })}
      />
      <Lines
        label="Search engine crawlers: patterns of their user agents. Their fetches in access logs are saved, so a move shows when its page was crawled again."
        value={rules.crawlers ?? []}
        change={(crawlers) => change({ crawlers })}
      />
    </RuleRow>
  );
}
