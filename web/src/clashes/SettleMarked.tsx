// The marked clashes: settle each as proposed, accept, or snooze them.
import { type FormEvent, useState } from "react";
import { toast } from "sonner";
import { api, type Schemas } from "../api/client";
import type { Marked } from "../listing/marked";
import { MarkedBar } from "../moves/DecideMarked";
import { HowAndWho } from "../moves/MakeMove";
import { useDeciding } from "../moves/useDeciding";
import { useTakeBack } from "../moves/useTakeBack";
import { Dialog } from "../shared/Dialog";
import { many } from "../shared/format";
import { MainButton, Words } from "../shared/parts";
import { useAct } from "../shared/useAct";
import type { ViewOptions } from "../state/view";

type Props = { site: Schemas["SiteShown"]; marked: Marked; options: ViewOptions };

export function SettleMarked({ site, marked, options }: Props) {
  const [open, setOpen] = useState(false);
  const act = useAct();
  const takeBack = useTakeBack(site.slug);
  const queries = [...marked.keys].map(Number);
  const clashes = many(queries.length, "clash", "clashes");
  const clear = () => marked.set(new Set());
  const { buttons, dialog } = useDeciding({
    site,
    subjects: queries.map((query) => ({ query })),
    finding: "clashes",
    options,
    name: clashes,
    done: clear,
    instead: () => setOpen(true),
  });

  async function settle(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = Object.fromEntries(new FormData(event.currentTarget)) as Record<string, string>;
    const body = {
      queries,
      note: form.note ?? "",
      effort: (form.effort || null) as Schemas["SettledInput"]["effort"],
      who: form.who || null,
      due: form.due || null,
    };
    const saved = await act(
      () =>
        api.POST("/api/sites/{slug}/clashes/settle", {
          params: { path: { slug: site.slug }, query: options },
          body,
        }),
      (made) =>
        toast(`Decided: ${made.length} of ${clashes}. What to do is on the list of moves.`, {
          action: { label: "Undo", onClick: () => takeBack.decisions(made) },
        }),
    );
    if (saved) {
      setOpen(false);
      clear();
    }
  }

  return (
    <MarkedBar name={`${clashes} marked`} clear={clear}>
      {buttons}
      {dialog}
      <Dialog title={`Settle ${clashes}`} open={open} onOpen={setOpen}>
        <form onSubmit={settle} className="space-y-3">
          <p className="font-serif text-lead">Each uses its proposed lead and its proposed resolution.</p>
          <HowAndWho slug={site.slug} effort={null} />
          <Words label="why" name="note" />
          <MainButton type="submit">Settle as proposed</MainButton>
        </form>
      </Dialog>
    </MarkedBar>
  );
}
