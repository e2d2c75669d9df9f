// What is done to the marked rows of a list: below it, as long as any is marked.
import type { ComponentProps } from "react";
import type { Schemas } from "../api/client";
import { count } from "../shared/format";
import { useKeys } from "../shared/keys";
import type { useMarked } from "../shared/marked";
import { Button } from "../shared/parts";
import type { MakeMove } from "./MakeMove";
import { useDeciding } from "./useDeciding";

type Props = {
  site: Schemas["SiteShown"];
  marked: NonNullable<ReturnType<typeof useMarked>>;
  words: [string, string]; // one of them, several
} & Pick<ComponentProps<typeof MakeMove>, "finding" | "scope">;

export function DecideMarked({ site, marked, finding, scope, words }: Props) {
  const many = marked.keys.size;
  const name = `${count(many)} marked ${words[many === 1 ? 0 : 1]}`;
  const clear = () => marked.set(new Set());
  const { buttons, dialog } = useDeciding({ site, subjects: marked.subjects, finding, scope, name, done: clear });
  useKeys({ Escape: clear });
  return (
    <div
      className="flex flex-wrap items-baseline gap-x-4 border-ink border-t bg-shade px-4 py-1.5"
      data-testid="marked"
      role="status"
    >
      <strong className="font-semibold">{name}</strong>
      {buttons}
      <Button plain className="ml-auto min-h-6 text-faint" onClick={clear} title="Take the marks off (Esc)">
        Take the marks off
      </Button>
      {dialog}
    </div>
  );
}
