// Actions on the marked rows of a list: below it, as long as any is marked.
import { type ComponentProps, type ReactNode, useState } from "react";
import type { Schemas } from "../api/client";
import type { Marked, Subject } from "../listing/marked";
import { count } from "../shared/format";
import { useKeys } from "../shared/keys";
import { Button } from "../shared/parts";
import { StartTrial } from "../trials/StartTrial";
import type { MakeMove } from "./MakeMove";
import { useDeciding } from "./useDeciding";

type Props = {
  site: Schemas["SiteShown"];
  marked: Marked;
  subjectOf: (key: string) => Subject;
  words: [string, string]; // singular, plural
} & Pick<ComponentProps<typeof MakeMove>, "finding" | "options">;

export function DecideMarked({ site, marked, subjectOf, finding, options, words }: Props) {
  const many = marked.keys.size;
  const name = `${count(many)} marked ${words[many === 1 ? 0 : 1]}`;
  const [trying, setTrying] = useState(false);
  const clear = () => marked.set(new Set());
  const subjects = [...marked.keys].map(subjectOf);
  const { buttons, dialog } = useDeciding({ site, subjects, finding, options, name, done: clear });
  return (
    <MarkedBar name={name} clear={clear}>
      {buttons}
      {site.may_change && subjects.every((one) => one.page != null) && (
        <Button plain className="min-h-6" onClick={() => setTrying(true)}>
          Start a trial
        </Button>
      )}
      {dialog}
      {trying && <StartTrial site={site} subjects={subjects} name={name} close={() => setTrying(false)} done={clear} />}
    </MarkedBar>
  );
}

export function MarkedBar({ name, clear, children }: { name: string; clear: () => void; children: ReactNode }) {
  useKeys({ Escape: clear });
  return (
    <div
      className="flex flex-wrap items-baseline gap-x-4 border-ink border-t bg-shade px-4 py-1.5"
      data-testid="marked"
      role="status"
    >
      <strong className="font-semibold">{name}</strong>
      {children}
      <Button plain className="ml-auto min-h-6 text-faint" onClick={clear} title="Clear the selection (Esc)">
        Clear the selection
      </Button>
    </div>
  );
}
