// A place with a list: the top line, the list with its sentences, the evidence next to it, actions on marked rows.
import { type ComponentProps, type ReactNode, useMemo, useState } from "react";
import { ExportMenu } from "../shared/ExportMenu";
import { Failed } from "../shared/parts";
import { SplitPane } from "../shared/SplitPane";
import { useRoom } from "../shared/useRoom";
import { EvidenceHere, type Marked, MarkedRows } from "./marked";

type Props = {
  name: string; // the storage key of the pane's divider
  heading: string;
  top: ReactNode;
  above?: ReactNode; // between the top line and the panes
  failed?: { error: unknown; refetch: () => unknown } | undefined;
  head: ReactNode;
  list: ReactNode;
  evidence: ReactNode;
  instead?: ReactNode; // of list and evidence
  onMarked: ((marked: Marked) => ReactNode) | undefined; // actions on marked rows; without them rows cannot be marked
};

export function ListPlace(props: Props) {
  const [keys, setKeys] = useState<ReadonlySet<string>>(new Set());
  const { onMarked, failed } = props;
  const room = useRoom();
  const here = useMemo(() => ({ content: props.evidence, over: room === "phone" }), [props.evidence, room]);
  const markable = onMarked !== undefined;
  const marked = useMemo(() => (markable ? { keys, set: setKeys } : null), [markable, keys]);
  const list = (
    <section aria-label="List" className="flex h-full min-h-0 flex-1 flex-col">
      {props.head}
      {props.list}
      {marked && keys.size > 0 && onMarked?.(marked)}
    </section>
  );
  return (
    <>
      {props.top}
      <h1 className="sr-only">{props.heading}</h1>
      {props.above}
      {props.instead ??
        (failed?.error ? (
          <Failed error={failed.error} retry={() => failed.refetch()} />
        ) : (
          <MarkedRows value={marked}>
            {room === "wide" ? (
              <SplitPane name={props.name} left={list} right={props.evidence} />
            ) : (
              <EvidenceHere value={here}>{list}</EvidenceHere>
            )}
          </MarkedRows>
        ))}
    </>
  );
}

type HeadProps = {
  sentences: string[] | undefined;
  lacking?: string[] | undefined;
  exported?: ComponentProps<typeof ExportMenu>;
  aside?: ReactNode;
  long?: true; // usually several lines
  children?: ReactNode;
};

/** The sentences of a list, with space reserved, so the list below does not move. */
export function ListSays({ sentences, lacking, exported, aside, long, children }: HeadProps) {
  return (
    <div className="border-rule border-b px-4 pt-2.5 pb-2">
      <div className="flex flex-wrap items-start justify-between gap-x-4 sm:flex-nowrap">
        <p className={`grow basis-56 ${long ? "min-h-10" : "min-h-5"}`}>{sentences?.join(" ")}</p>
        <span className="flex flex-wrap gap-x-4 sm:shrink-0 sm:flex-nowrap">
          {exported && <ExportMenu {...exported} />}
          {aside}
        </span>
      </div>
      {children}
      {lacking && (
        <div className="min-h-4">
          {lacking
            .filter((words) => !sentences?.includes(words))
            .map((words) => (
              <p key={words} role="status" className="text-ochre text-xs">
                {words}
              </p>
            ))}
        </div>
      )}
    </div>
  );
}
