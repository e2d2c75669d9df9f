// The top line: the site, the period as a sentence, and filters as removable words.

import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { BookOpen, Link2, Search, X } from "lucide-react";
import { useEffect, useState } from "react";
import { toast } from "sonner";
import { sitesQuery } from "../api/ask";
import type { Schemas } from "../api/client";
import { useGuide } from "../frame/places";
import { Opening } from "../shared/Dialog";
import { count } from "../shared/format";
import { useRoom } from "../shared/useRoom";
import { COMPARISONS, type Comparison, GRADES, type Grade, isLens, SURE, TARGETS, type View } from "../state/view";
import { BrandForm } from "./BrandForm";
import { FilterForm } from "./FilterForm";
import { PeriodForm } from "./PeriodForm";

import type { TopLineProps } from "./topLineProps";

export function TopLine(props: TopLineProps) {
  const { site, search, list, change, opened, setOpened, finding } = props;
  const opening = (name: string) => ({
    open: opened === name,
    onOpen: (open: boolean) => setOpened(open ? name : null),
  });
  const compare = search.compare ?? "year";
  const against = comparedWith(list, compare);
  const phone = useRoom() === "phone";
  if (phone) return <PhoneLine {...props} against={against} />;
  return (
    <header className="flex min-h-11 flex-wrap items-center gap-x-4 gap-y-1 border-rule border-b px-4 py-1">
      <SiteName site={site} to={!finding ? "/$site/changes" : "/$site/queries"} />
      <div className={list ? "contents" : "late contents"}>
        <Opening
          name="Period (p)"
          width={400}
          label={
            <span>
              {list?.period.sentence ?? "…"}
              {list && against && <span className="text-faint">, against {against}</span>}
            </span>
          }
          {...opening("period")}
        >
          <PeriodForm {...props} close={() => setOpened(null)} />
        </Opening>
        <Opening name="Filters (f)" label="Filters" {...opening("filters")}>
          <FilterForm {...props} close={() => setOpened(null)} />
        </Opening>
        {!finding ? (
          <span className="text-faint">brand included</span>
        ) : (
          <Opening
            name="Brand patterns (b)"
            width={380}
            label={
              site.brand_patterns.length > 0
                ? `brand excluded (${site.brand_patterns.length} pattern${site.brand_patterns.length > 1 ? "s" : ""})`
                : "brand included"
            }
            {...opening("brand")}
          >
            <BrandForm site={site} close={() => setOpened(null)} />
          </Opening>
        )}
        <FilterWords search={search} change={change} floor={site.min_impressions} usual={usualOf(finding)} />
        <span className="ml-auto flex min-w-0 items-center gap-x-2">
          {finding && <TextSearch text={search.text ?? ""} change={change} />}
          <CopyAddress />
        </span>
        <Cautions list={list} change={change} />
      </div>
    </header>
  );
}

/** On a phone: the period, and everything else behind one word with the number of filters. */
function PhoneLine({ against, ...props }: TopLineProps & { against: string }) {
  const { site, search, list, change, opened, setOpened, finding } = props;
  const set = filtersOf(search, site.min_impressions, usualOf(finding)).length;
  const close = () => setOpened(null);
  return (
    <header className="border-rule border-b px-4">
      <div className="flex min-h-9 items-center justify-between gap-x-4">
        <Opening
          name="Period"
          width={400}
          label={<span className="block truncate">{list?.period.sentence ?? "…"}</span>}
          open={opened === "period"}
          onOpen={(open) => setOpened(open ? "period" : null)}
        >
          {against && <p className="mb-2 text-faint">Against {against}.</p>}
          <PeriodForm {...props} close={close} />
        </Opening>
        <Opening
          name="Filters"
          label={set ? `Filters (${set})` : "Filters"}
          open={opened === "filters"}
          onOpen={(open) => setOpened(open ? "filters" : null)}
        >
          <div className="mb-4 space-y-3">
            <SiteName site={site} to={!finding ? "/$site/changes" : "/$site/queries"} />
            {finding && <TextSearch text={search.text ?? ""} change={change} />}
            <p className="flex flex-wrap gap-2">
              <FilterWords search={search} change={change} floor={site.min_impressions} usual={usualOf(finding)} />
            </p>
          </div>
          <FilterForm {...props} close={close} />
          {finding && (
            <details className="mt-4 border-rule border-t pt-2">
              <summary>Brand patterns</summary>
              <BrandForm site={site} close={close} />
            </details>
          )}
        </Opening>
      </div>
      <Cautions list={list} change={change} />
    </header>
  );
}

const usualOf = (finding: TopLineProps["finding"]) => (isLens(finding) ? SURE : GRADES);

/** Warnings about the figures; where too few days can be compared, the period that can be. */
function Cautions({ list, change }: Pick<TopLineProps, "list" | "change">) {
  const comparison = list?.comparison;
  const parts = [
    comparison?.sentence,
    list?.period.missing,
    list?.curve_basis === "prior" && list.curve_sentence,
  ].filter(Boolean);
  if (parts.length === 0) return null;
  const fair = comparison?.fair;
  return (
    <p role="status" className="w-full text-ochre">
      {parts.join(" ")}
      {fair && (
        <button type="button" className="link ml-2" onClick={() => change({ first: fair.first, last: fair.last })}>
          Use that period
        </button>
      )}
    </p>
  );
}

/** The comparison period in words; empty without one. */
function comparedWith(list: TopLineProps["list"], compare: Comparison): string {
  if (compare === "none" || (list && !list.before)) return "";
  if (list && !list.period.by_day) return list.before?.sentence ?? "";
  return compare === "year" && (list?.period.days ?? 7) % 7 ? "the same days last year" : COMPARISONS[compare];
}

type SiteNameProps = {
  site: Schemas["SiteShown"];
  to:
    | "/$site/changes"
    | "/$site/queries"
    | "/$site/moves"
    | "/$site/drafts"
    | "/$site/reports"
    | "/$site/people"
    | "/$site/data";
};

/** The site's name; with several sites, a menu to the same place on another. */
export function SiteName({ site, to }: SiteNameProps) {
  const guide = useGuide();
  const navigate = useNavigate();
  const sites = useQuery(sitesQuery);
  return (
    <div className="flex min-w-0 max-w-full items-baseline gap-x-1.5 font-semibold font-serif text-lead">
      {(sites.data?.length ?? 0) > 1 ? (
        <select
          aria-label="Site"
          value={site.slug}
          onChange={(event) => navigate({ to, params: { site: event.target.value }, search: {} })}
          className="w-full max-w-64 text-ellipsis border-rule border-b bg-transparent py-0.5"
        >
          {sites.data?.map((one) => (
            <option key={one.slug} value={one.slug} className="bg-sheet">
              {one.name}
            </option>
          ))}
        </select>
      ) : (
        site.name
      )}
      <Link
        to="/$site/help"
        params={{ site: site.slug }}
        search={{ page: guide }}
        aria-label="Guide to this place"
        title="Guide to this place"
        className="self-center p-1 text-faint hover:text-ink"
      >
        <BookOpen size={13} aria-hidden="true" />
      </Link>
    </div>
  );
}

/** The set filters: each in words, with what removes it. */
function filtersOf(search: View, floor: number, usual: Grade[]): [string, Partial<View>][] {
  const words: [string, Partial<View>][] = [];
  const grades = search.evidence ?? usual;
  if (grades.join() !== usual.join()) words.push([grades.join(" or "), { evidence: undefined }]);
  if (search.position_from !== undefined || search.position_to !== undefined)
    words.push([
      `position ${search.position_from ?? 1} to ${search.position_to ?? "last"}`,
      { position_from: undefined, position_to: undefined },
    ]);
  if (search.min_impressions !== undefined && search.min_impressions !== floor)
    words.push([`${count(search.min_impressions)} impressions or more`, { min_impressions: undefined }]);
  const named: ["device" | "country" | "page_type" | "query_group" | "topic", string][] = [
    ["device", "on"],
    ["country", "in"],
    ["page_type", "page type"],
    ["query_group", "group"],
    ["topic", "topic"],
  ];
  for (const [name, word] of named)
    if (search[name]) words.push([`${word} ${search[name].join(" or ")}`, { [name]: undefined }]);
  if (search.section) words.push([`pages in ${search.section}`, { section: undefined }]);
  if (search.decided) words.push([search.decided === "open" ? "not decided yet" : "decided", { decided: undefined }]);
  if (search.target) words.push([`target: ${TARGETS[search.target]}`, { target: undefined }]);
  return words;
}

function FilterWords(props: { search: View; change: TopLineProps["change"]; floor: number; usual: Grade[] }) {
  const { search, change, floor, usual } = props;
  return filtersOf(search, floor, usual).map(([word, without]) => (
    <button
      key={word}
      type="button"
      onClick={() => change(without)}
      title={`Remove: ${word}`}
      aria-label={`Remove the filter: ${word}`}
      className="inline-flex items-center gap-1 border border-strong-rule px-1.5 hover:border-ink"
    >
      {word}
      <X size={11} aria-hidden="true" />
    </button>
  ));
}

/** The address contains the whole view, so it can be shared. */
function CopyAddress() {
  return (
    <button
      type="button"
      aria-label="Copy the address"
      title="Copy the address of this view"
      onClick={() =>
        navigator.clipboard
          .writeText(location.href)
          .then(() => toast("Address copied."))
          .catch(() => toast.error("The browser blocked copying. Copy the address bar."))
      }
      className="p-1 text-faint hover:text-ink"
    >
      <Link2 size={14} aria-hidden="true" />
    </button>
  );
}

export function TextSearch({ text, change }: { text: string; change: (part: { text?: string }) => void }) {
  const [typed, setTyped] = useState(text);
  useEffect(() => setTyped(text), [text]);
  // Wait for a pause in typing, so each letter is not a request.
  useEffect(() => {
    if (typed === text) return;
    const timer = setTimeout(() => change({ text: typed || undefined }), 250);
    return () => clearTimeout(timer);
  }, [typed, text, change]);
  return (
    <label className="ml-auto flex min-w-0 items-center gap-1.5 border-strong-rule border-b">
      <Search size={13} aria-hidden="true" className="text-faint" />
      <span className="sr-only">Search queries and pages</span>
      <input
        id="list-search"
        type="search"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
        placeholder="query or page"
        title="Search queries and pages (/)"
        className="w-32 min-w-0 bg-transparent py-0.5 placeholder:text-faint"
      />
    </label>
  );
}
