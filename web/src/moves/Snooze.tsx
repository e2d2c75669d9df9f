// Dismiss with a reason, or snooze until a day: one row, or several at once.
import type { FormEvent } from "react";
import { toast } from "sonner";
import { api } from "../api/client";
import { DateField } from "../shared/DateField";
import { Dialog } from "../shared/Dialog";
import { MainButton, Words } from "../shared/parts";
import { useAct } from "../shared/useAct";
import type { DecidingOn } from "./MakeMove";
import { useTakeBack } from "./useTakeBack";

export function Snooze({
  slug,
  subjects,
  name,
  way,
  close,
  done,
}: DecidingOn & { slug: string; way: "dismiss" | "snooze" }) {
  const act = useAct();
  const takeBack = useTakeBack(slug);
  const aside = way === "snooze";
  // Dismissing a clash means accepting it.
  const choice = aside ? "snooze" : subjects.some((one) => one.page == null) ? "accept" : "dismiss";

  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = Object.fromEntries(new FormData(event.currentTarget)) as Record<string, string>;
    const body = { subjects, choice, note: form.note ?? "", until: form.until || null };
    const saved = await act(
      () => api.POST("/api/sites/{slug}/decisions", { params: { path: { slug } }, body }),
      (made) =>
        toast(`${made.length > 1 ? `${made.length} rows are ` : ""}${aside ? "snoozed." : "dismissed."}`, {
          action: { label: "Undo", onClick: () => takeBack.decisions(made) },
        }),
    );
    if (saved) {
      close();
      done?.();
    }
  }

  return (
    <Dialog title={aside ? "Snooze" : "Dismiss"} open onOpen={(open) => !open && close()}>
      <p className="mb-2 break-words font-medium">{name}</p>
      <form onSubmit={submit} className="space-y-3">
        {aside && <DateField label="until" name="until" required min={tomorrow()} defaultValue={inFourWeeks()} />}
        <Words label={aside ? "why (optional)" : "why"} name="note" required={!aside} autoFocus={!aside} />
        <MainButton type="submit">{aside ? "Snooze" : "Dismiss"}</MainButton>
      </form>
    </Dialog>
  );
}

const inDays = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);
const tomorrow = () => inDays(1);
const inFourWeeks = () => inDays(28);
