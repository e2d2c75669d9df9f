// A place that lists a finding: the top line, its views, the list with its sentences, the evidence next to it.
import { type ReactNode, useState } from "react";
import { type Answer, type Row, useFinding, usePicked } from "../api/ask";
import { CATALOG } from "../api/catalog.generated";
import type { Schemas } from "../api/client";
import { ExportMenu } from "../shared/ExportMenu";
import { findingFile } from "../shared/export";
import { Method } from "../shared/Method";
import { Button, Notice } from "../shared/parts";
import { Views } from "../shared/Views";
import { type FindingName, findingsOf, type ListSearch, NO_FILTERS, optionsOf, type ViewOptions } from "../state/view";
import { FindingList, keyOf, type Look, sortedBy } from "./FindingList";
import { ListPlace, ListSays } from "./ListPlace";
import type { Marked } from "./marked";
import { AlsoPossible, neededFirst, openOf } from "./needs";
import { NoData, useListPlace } from "./place";
import { RowFile } from "./RowFile";
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
type Keyed<Name extends FindingName> = Row<Name> & { key: string };

type Props<Name extends FindingName> = PlaceProps & {
  finding: Name;
  options?: ViewOptions; // by default what the address says
  top?: ReactNode;
  head?: (list: Head<Name> | undefined, method: ReactNode) => ReactNode; // instead of the finding's sentences
  below?: (list: Head<Name> | undefined) => ReactNode; // the sentences
  foot?: ReactNode; // below the list
  look?: (list: Head<Name> | undefined) => Look<Name>; // what its list draws in its own way
  // For the picked row, otherwise the first; its key is known before the row is. By default the row's columns and sentences.
  evidence?: (key: string | undefined, list: Head<Name> | undefined, row: Row<Name> | undefined) => ReactNode;
  onMarked?: (marked: Marked) => ReactNode;
  instead?: ReactNode;
  bare?: true; // it also exists without data
};

export function FindingPlace<Name extends FindingName>(props: Props<Name>) {
  const { site, search, change, finding } = props;
  const options = props.options ?? optionsOf(search);
  const { slug } = site;
  const findings = listsOfPlace(finding);
  const answer = useFinding(slug, finding, options, {
    sorted: sortedBy(search),
    enabled: site.last_day !== null || props.bare === true,
  });
  const list = answer.data as Head<Name> | undefined;
  const { row, place, pick } = usePickedRow(props, options, list);
  const [opened, setOpened] = useState<string | null>(null);
  const declared = CATALOG[finding];
  const exported = { base: findingFile(slug, finding), options, rows: `${list?.total ?? "all"} ${declared.claims[1]}` };
  useListPlace({ title: `${declared.title} · ${site.name}`, open: setOpened, ...exported });
  if (site.last_day === null && !props.bare) return <NoData slug={slug} />;
  const look = props.look?.(list) ?? usualLook<Name>(change);
  const key = search.row ?? (row ? keyOf(row as Keyed<Name>) : undefined);
  const graded = declared.columns.some((column) => column.kind === "grade") || "sure" in (list ?? {});
  const method = (
    <>
      {graded && <Method name="evidence" label="firm, likely: what they mean" />}
      <Method
        name={declared.method}
        columns={declared.columns}
        example={<RowExample slug={slug} finding={finding} options={options} search={search} row={key} />}
      />
    </>
  );
  return (
    <ListPlace
      name={findings?.[0] ?? finding}
      heading={declared.title}
      top={
        props.top ?? (
          <TopLine
            site={site}
            search={search}
            list={answer.isPlaceholderData ? undefined : (list as never)}
            finding={finding}
            change={change}
            opened={opened}
            setOpened={setOpened}
          />
        )
      }
      above={
        findings && (
          <>
            <Views
              views={
                Object.fromEntries(
                  openOf(site, findings, finding).map((name) => [name, CATALOG[name].title]),
                ) as Record<FindingName, string>
              }
              chosen={finding}
              choose={(name) => change({ finding: name, sort: undefined, up: undefined })}
              aside={<ExportMenu {...exported} />}
            />
            <AlsoPossible site={site} findings={findings.filter((name) => name !== finding)} />
          </>
        )
      }
      instead={props.instead ?? neededFirst(site, finding)}
      failed={answer}
      onMarked={site.may_change ? props.onMarked : undefined}
      head={
        props.head?.(list, method) ?? (
          <ListSays
            sentences={list?.sentences}
            lacking={list?.lacking ?? []}
            exported={findings ? undefined : exported}
            aside={method}
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
            options={options}
            list={list}
            stale={answer.isPlaceholderData}
            search={search}
            change={change}
            look={look}
            picked={row ?? undefined}
            place={place}
            pick={pick}
          />
          {props.foot}
        </>
      }
      evidence={
        search.row !== undefined && row === null ? (
          <Notice title="Not in this list">
            This row is not in the list with these filters. Choose another row, or change the filters.
          </Notice>
        ) : (
          (props.evidence?.(key, list, row ?? undefined) ?? (
            <RowFile slug={slug} finding={finding} row={row ?? undefined} />
          ))
        )
      }
    />
  );
}

/** The lists of a finding's place; undefined where it is the only one. */
function listsOfPlace(finding: FindingName) {
  const findings = findingsOf(CATALOG[finding].place);
  return findings.length > 1 ? findings : undefined;
}

/** A list without anything of its own: its declared columns. */
function usualLook<Name extends FindingName>(change: PlaceProps["change"]): Look<Name> {
  return {
    least: 34,
    rowHeight: 30,
    near: () => {},
    empty: (
      <Notice
        title="Nothing to show here"
        action={<Button onClick={() => change(NO_FILTERS)}>Remove the filters</Button>}
      >
        No row fits these filters.
      </Notice>
    ),
    waiting: "Computing the list.",
  };
}

type ExampleProps = {
  slug: string;
  finding: FindingName;
  options: ViewOptions;
  search: ListSearch;
  row: string | undefined;
};

/** The rule applied to the current row. */
function RowExample({ slug, finding, options, search, row }: ExampleProps) {
  const found = usePicked(slug, finding, options, sortedBy(search), row);
  if (!found.data?.example) return null;
  return (
    <p className="border-ink border-l-2 pl-2" data-testid="example">
      <span className="font-semibold">This row: </span>
      {found.data.example}
    </p>
  );
}

/** The current row: the one last picked, the one in the address, or the first; null: not in the list. */
function usePickedRow<Name extends FindingName>(
  props: Props<Name>,
  options: ViewOptions,
  list: Head<Name> | undefined,
) {
  const { site, search, change, finding } = props;
  const [last, setLast] = useState<Keyed<Name> | null>(null);
  const wanted = search.row;
  const rows = list?.rows as Keyed<Name>[] | undefined;
  const known = [last, ...(rows ?? [])].find((one) => one?.key === wanted) ?? undefined;
  const far = list !== undefined && wanted !== undefined && known === undefined;
  const found = usePicked(site.slug, finding, options, sortedBy(search), far ? wanted : undefined);
  const row = wanted === undefined ? rows?.[0] : (known ?? (far ? found.data?.row : undefined));
  return {
    row: far && found.data === null ? null : row,
    place: far ? found.data?.place : undefined,
    pick: (one: Row<Name>) => {
      setLast(one as Keyed<Name>);
      change({ row: keyOf(one as Keyed<Name>) });
    },
  };
}
