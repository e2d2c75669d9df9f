// The evidence of the selected row: the sentence, its numbers, the chart with the curve, its days.
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { lazy, type ReactNode, Suspense, useDeferredValue } from "react";
import { type Answer, ask, rowQuery, STEADY } from "../api/ask";
import type { Schemas } from "../api/client";
import { Deciding } from "../moves/Deciding";
import { EvidenceMark } from "../shared/EvidenceMark";
import { count, NONE, path, place, share } from "../shared/format";
import { MeasureCards } from "../shared/MeasureCards";
import { Method } from "../shared/Method";
import { PageLink } from "../shared/PageLink";
import { Picture } from "../shared/Picture";
import { Failed, Notice } from "../shared/parts";
import { type ListSearch, rowSubject, type ViewOptions } from "../state/view";
import { CurveForm } from "./CurveForm";
import { DaysTable } from "./DaysTable";

type Lens = "low-ctr"; // these findings all have rows of one kind

const FieldChart = lazy(() => import("../charts/FieldChart"));
const DaysChart = lazy(() => import("../charts/DaysChart"));

type Props = {
  site: Schemas["SiteShown"];
  lens: Lens;
  options: ViewOptions;
  row: string | undefined;
  list: Answer<Lens> | undefined;
  change: (part: Partial<ListSearch>) => void;
};

export function EvidencePane({ site, lens, options, row, list, change }: Props) {
  const evidence = useQuery({ ...rowQuery(site.slug, options, lens, row ?? "0-0"), enabled: row !== undefined });
  const { compare: _, ...ofField } = options;
  const field = ask.useQuery(
    "get",
    "/api/sites/{slug}/field",
    { params: { path: { slug: site.slug }, query: { ...ofField, lens } } },
    STEADY,
  );
  // Text and figures appear at once; the charts follow within a frame or two.
  const drawn = useDeferredValue(evidence.data);

  if (!row) return list ? <Notice title="No row selected">Choose a list or filters with rows.</Notice> : null;
  if (evidence.error) return <Failed error={evidence.error} retry={() => evidence.refetch()} />;
  const proof = evidence.data;
  if (!proof) return null;
  const name = proof.query ?? proof.page ?? "";
  return (
    <article
      aria-label="Evidence"
      aria-busy={evidence.isPlaceholderData}
      className={`px-5 py-3 ${evidence.isPlaceholderData ? "opacity-60" : ""}`}
      data-testid="evidence"
    >
      <h2 className="text-xl leading-6">
        {proof.query ? (
          <Link
            to="/$site/query"
            params={{ site: site.slug }}
            search={{ query: Number(row.split("-")[1]) }}
            title="All pages for this query"
            className="hover:underline"
          >
            {proof.query}
          </Link>
        ) : (
          path(name)
        )}
      </h2>
      {proof.page ? <PageLink address={proof.page} /> : <p className="text-faint text-xs">over all of its pages</p>}
      {proof.page && (
        <Deciding
          site={site}
          subject={rowSubject(row)}
          finding={lens}
          name={[proof.query && `“${proof.query}”`, proof.page && path(proof.page)].filter(Boolean).join(" on ")}
          options={options}
        />
      )}
      <div className="mt-2 space-y-1 font-serif text-lead">
        {proof.sentences.map((sentence) => (
          <p key={sentence}>{sentence}</p>
        ))}
      </div>
      <div className="mt-3">
        <MeasureCards measures={proof.compared} compared={list?.before != null} />
      </div>
      <Numbers proof={proof} />
      <Suspense fallback={<div className="h-[520px]" />}>
        <Heading title="The field" note="each dot a query, size by impressions">
          {site.may_change && field.data && <CurveForm site={site} curve={field.data.curve} />}
          <Method name="the-click-curve" />
        </Heading>
        {field.error ? (
          <Failed error={field.error} retry={() => field.refetch()} />
        ) : (
          <Picture name="the field">
            <FieldChart
              field={field.data}
              proof={drawn ?? proof}
              loss={(lens as string) === "low-ctr"}
              pick={(picked) => change({ row: picked })}
              brush={(above, below) => change({ position_from: above, position_to: below })}
            />
          </Picture>
        )}
        {proof.days.length > 0 && (
          <>
            <Heading
              title="Its days"
              note={list?.before ? `strong line: the period; faint: ${list.before.sentence}` : "the period, day by day"}
            />
            {list && (
              <Picture name={`days ${name}`}>
                <DaysChart proof={drawn ?? proof} first={list.period.first} last={list.period.last} />
              </Picture>
            )}
          </>
        )}
      </Suspense>
      {proof.days.length > 0 && <DaysTable proof={proof} />}
    </article>
  );
}

function Heading({ title, note, children }: { title: string; note: string; children?: ReactNode }) {
  return (
    <div className="mt-3 flex flex-wrap items-baseline gap-x-2 border-rule border-t pt-2">
      <h3 className="text-lead">{title}</h3>
      <span className="text-faint text-xs">{note}</span>
      {children}
    </div>
  );
}

function Numbers({ proof }: { proof: Schemas["RowProof"] }) {
  const finding = proof.finding;
  const numbers: [string, ReactNode, ReactNode][] = [
    ["lost clicks", finding ? count(finding.lost_month) : NONE, "a month: expected minus actual"],
    [
      "potential clicks",
      finding ? count(finding.potential_month) : NONE,
      proof.target < proof.position
        ? `a month, if it ranked at ${place(proof.target)}`
        : "no target from this position",
    ],
    [
      "evidence",
      finding ? <EvidenceMark key="grade" grade={finding.evidence} /> : "not in this list",
      <>
        {finding ? `q = ${finding.q_value.toPrecision(2)}. ` : "see the filters. "}
        <Method name="evidence" label="How sure?" />
      </>,
    ],
  ];
  return (
    <>
      <p className="mt-1 text-faint text-xs">
        Expected CTR at these positions {share(proof.expected_ctr)}, from the site's curve
        {proof.days.length > 0 && " day by day"}; by chance alone its own would lie between {share(proof.ctr_low)} and{" "}
        {share(proof.ctr_high)} (Wilson, 95 %).
      </p>
      <dl className="mt-2 grid grid-cols-3 gap-x-4 border-rule border-t pt-2">
        {numbers.map(([name, value, note]) => (
          <div key={name}>
            <dt className="text-faint text-xs">{name}</dt>
            <dd>
              <span className="font-semibold font-serif text-lead">{value}</span>
              <span className="block text-xs text-faint leading-tight">{note}</span>
            </dd>
          </div>
        ))}
      </dl>
    </>
  );
}
