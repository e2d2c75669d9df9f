// Conflicting changes of two people, side by side; nothing is saved before one is chosen.
import { useState } from "react";
import { Dialog } from "../shared/Dialog";
import { Button, MainButton } from "../shared/parts";
import type { Doubts as Details, Words } from "./DraftSession";

type Take = "mine" | "theirs" | "both";
type Props = { doubts: Details; choose: (words: Words) => void; later: () => void };
const NAMES: Record<Take, string> = { mine: "mine", theirs: "the other version", both: "both" };
const plain = (blocks: string[]) =>
  new DOMParser().parseFromString(blocks.join(" "), "text/html").body.textContent ?? "";

export function Doubts({ doubts, choose, later }: Props) {
  const [taken, setTaken] = useState<Record<string, Take>>({});
  const pieces = doubts.text ?? [];
  const of = (key: string, both = true): Take => taken[key] ?? (both ? "both" : "mine");
  const rows = [
    ...(["title", "description"] as const).flatMap((name) => {
      const stored = doubts[name];
      return stored?.theirs != null
        ? [{ key: name as string, head: name as string, mine: stored.mine, theirs: stored.theirs, both: false }]
        : [];
    }),
    ...pieces.flatMap((piece, at) =>
      piece.theirs
        ? [
            {
              key: String(at),
              head: `part ${at + 1}`,
              mine: plain(piece.mine),
              theirs: plain(piece.theirs),
              both: true,
            },
          ]
        : [],
    ),
  ];

  function settle() {
    const snippet = (name: "title" | "description") => {
      const stored = doubts[name];
      if (!stored) return doubts.draft[name];
      return stored.theirs != null && of(name, false) === "theirs" ? stored.theirs : stored.mine;
    };
    const text = pieces.flatMap((piece, at) => {
      if (!piece.theirs) return piece.mine;
      const take = of(String(at));
      return [...(take === "theirs" ? [] : piece.mine), ...(take === "mine" ? [] : piece.theirs)];
    });
    choose({ title: snippet("title"), description: snippet("description"), text: text.join("\n") });
  }

  return (
    <Dialog title="Someone else changed the same text" open onOpen={(open) => !open && later()}>
      <div data-testid="draft-doubts">
        <p className="mb-2">Everything else is merged. Choose which version to keep; both are saved until you do.</p>
        {rows.map((row) => (
          <fieldset key={row.key} className="mb-3 border-rule border-t pt-2">
            <legend className="font-medium">{row.head}</legend>
            <p>
              <span className="text-faint">mine: </span>
              {row.mine || "nothing"}
            </p>
            <p>
              <span className="text-faint">other version: </span>
              {row.theirs || "nothing"}
            </p>
            <p className="mt-1 flex gap-4">
              {(["mine", "theirs", ...(row.both ? (["both"] as const) : [])] as Take[]).map((take) => (
                <label key={take} className="flex min-h-6 items-center gap-1">
                  <input
                    type="radio"
                    name={`take-${row.key}`}
                    checked={of(row.key, row.both) === take}
                    onChange={() => setTaken({ ...taken, [row.key]: take })}
                  />
                  {NAMES[take]}
                </label>
              ))}
            </p>
          </fieldset>
        ))}
        <p className="flex gap-3">
          <MainButton onClick={settle}>Keep these</MainButton>
          <Button onClick={later}>Later</Button>
        </p>
      </div>
    </Dialog>
  );
}
