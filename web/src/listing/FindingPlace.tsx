// A place that lists a finding: the line on top, its views, the list with what it says, the evidence beside it.
import { type ReactNode, useState } from "react";
import { type Answer, type Row, useFinding } from "../api/ask";
import { CATALOG } from "../api/catalog.generated";
import type { Schemas } from "../api/client";
import { ExportMenu } from "../shared/ExportMenu";
import { findingFile } from "../shared/export";
import { Method } from "../shared/Method";
import { Views } from "../shared/Views";
import type { Asked, FindingName, ListSearch } from "../state/view";
import { FindingList, type Look, sortedBy } from "./FindingList";
import { ListPlace, ListSays } from "./ListPlace";
import type { Marked } from "./marked";
import { NoData, useListPlace } from "./place";
import { TopLine } from "./TopLine";

export type PlaceProps = {
  site: Schemas["SiteShown"];
  search: ListSearch;
  change: (part: Partial<ListSearch>) => void;
};
type Head<Name extends FindingName> = Answer<Name> & {
  total: number;
  sentences: string[];
  lacking: string[];
  rows: Row<Name>[];
};

type Props<Name extends FindingName> = PlaceProps & {
  finding: Name;
  findings?: readonly FindingName[]; // of the place, where it has several
  asked: Asked;
  top?: ReactNode;
  head?: (list: Head<Name> | undefined) => ReactNode; // in place of the finding's sentences
  below?: (list: Head<Name> | undefined) => ReactNode; // the sentences
  foot?: ReactNode; // below the list
  look: (list: Head<Name> | undefined) => Look<Name>;
  evidence: (row: string | undefined, list: Head<Name> | undefined) => ReactNode;
  onMarked?: (marked: Marked) => ReactNode;
  instead?: ReactNode;
  bare?: true; // it is there without data too
};

export function FindingPlace<Name extends FindingName>(props: Props<Name>) {
  const { site, search, change, finding, findings, asked } = props;
  const { slug } = site;
  const told = useFinding(slug, finding, asked, {
    sorted: sortedBy(search),
    enabled: site.last_day !== null || props.bare === true,
  });
  const list = told.data as Head<Name> | undefined;
  const [opened, setOpened] = useState<string | null>(null);
  const declared = CATALOG[finding];
  const exported = { base: findingFile(slug, finding), asked, rows: `${list?.total ?? "all"} ${declared.claims[1]}` };
  useListPlace({ title: `${declared.title} · ${site.name}`, open: setOpened, ...exported });
  if (site.last_day === null && !props.bare) return <NoData slug={slug} />;
  const look = props.look(list);
  const first = list?.rows[0];
  return (
    <ListPlace
      name={findings?.[0] ?? finding}
      heading={declared.title}
      top={
        props.top ?? (
          <TopLine
            site={site}
            search={search}
            list={list as never}
            finding={finding}
            change={change}
            opened={opened}
            setOpened={setOpened}
          />
        )
      }
      above={
        findings && (
          <Views
            views={
              Object.fromEntries(findings.map((name) => [name, CATALOG[name].title])) as Record<FindingName, string>
            }
            chosen={finding}
            choose={(name) => change({ finding: name, sort: undefined, up: undefined })}
            aside={<ExportMenu {...exported} />}
          />
        )
      }
      instead={props.instead}
      failed={told}
      onMarked={site.may_change ? props.onMarked : undefined}
      head={
        props.head?.(list) ?? (
          <ListSays
            sentences={list?.sentences}
            lacking={list?.lacking ?? []}
            exported={findings ? undefined : exported}
            aside={<Method name={declared.method} />}
            long
          >
            {props.below?.(list)}
          </ListSays>
        )
      }
      list={
        <>
          <FindingList
            slug={slug}
            finding={finding}
            asked={asked}
            list={list}
            stale={told.isPlaceholderData}
            search={search}
            change={change}
            look={look}
          />
          {props.foot}
        </>
      }
      evidence={props.evidence(search.row ?? (first && look.keyOf(first)), list)}
    />
  );
}
