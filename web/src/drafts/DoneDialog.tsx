// Mark a draft as published: since when, and at which address for a new page. This completes its move.
import { type FormEvent, useState } from "react";
import { api } from "../api/client";
import { DateField } from "../shared/DateField";
import { Dialog } from "../shared/Dialog";
import { Button, Field, MainButton, Words } from "../shared/parts";
import { useAct } from "../shared/useAct";
import type { Draft } from "./DraftSession";

type Props = { slug: string; draft: Draft; before: () => Promise<void>; close: () => void; done: () => void };

export function DoneDialog({ slug, draft, before, close, done }: Props) {
  const act = useAct();
  const today = new Date().toISOString().slice(0, 10);
  const [on, setOn] = useState(today);
  async function keep(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    await before();
    const body = { on, page: String(form.get("page") ?? ""), note: String(form.get("note") ?? "") };
    const params = { path: { slug, draft_id: draft.id } };
    if (await act(() => api.POST("/api/sites/{slug}/drafts/{draft_id}/done", { params, body }))) {
      done();
      close();
    }
  }
  return (
    <Dialog title="Mark as published" open onOpen={(open) => !open && close()}>
      <form onSubmit={keep} className="space-y-3">
        <DateField label="Published on" value={on} onDay={setOn} max={today} required />
        {!draft.page && (
          <Field
            label="Address of the page"
            name="page"
            placeholder="/guides/…"
            hint="If your data or a crawl already include it; otherwise leave this empty."
          />
        )}
        <Words label="Note" name="note" />
        <p className="flex gap-3">
          <MainButton type="submit">Mark as published</MainButton>
          <Button onClick={close}>Cancel</Button>
        </p>
      </form>
    </Dialog>
  );
}
