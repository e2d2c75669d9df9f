import { type FormEvent, useState } from "react";
import { api } from "../api/client";
import { DateField } from "../shared/DateField";
import { Dialog } from "../shared/Dialog";
import { day } from "../shared/format";
import { Button, Field, MainButton } from "../shared/parts";
import { useAct } from "../shared/useAct";
import { useEvents } from "./hooks";

/** The dated events of a site: add or remove one. */
export function EventsDialog({ slug, close }: { slug: string; close: () => void }) {
  const events = useEvents(slug);
  const act = useAct();
  // The form resets only after an event was added: typed text stays while the list loads.
  const [added, setAdded] = useState(0);

  async function add(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const answer = Object.fromEntries(new FormData(event.currentTarget)) as Record<string, string>;
    const body = {
      title: answer.title ?? "",
      first_day: answer.first_day ?? "",
      last_day: answer.last_day || null,
      kind: answer.kind ?? "",
      note: "",
    };
    if (await act(() => api.POST("/api/sites/{slug}/events", { params: { path: { slug } }, body })))
      setAdded(added + 1);
  }

  return (
    <Dialog title="Dated events" open onOpen={(open) => !open && close()}>
      <ul>
        {events.data?.map((one) => (
          <li key={one.id} className="flex items-baseline gap-3 border-rule border-b py-1">
            <span className="w-24 shrink-0">{day(one.first_day)}</span>
            <span className="flex-1">
              {one.title} {one.kind && <span className="text-faint">{one.kind}</span>}
            </span>
            <Button
              plain
              onClick={() =>
                act(() =>
                  api.DELETE("/api/sites/{slug}/events/{event_id}", { params: { path: { slug, event_id: one.id } } }),
                )
              }
              aria-label={`Delete ${one.title}`}
            >
              Delete
            </Button>
          </li>
        ))}
        {events.data?.length === 0 && <li className="text-faint">None yet.</li>}
      </ul>
      <form key={added} onSubmit={add} className="mt-4 grid grid-cols-2 gap-3">
        <div className="col-span-2">
          <Field label="What happened" name="title" required maxLength={300} />
        </div>
        <DateField label="First day" name="first_day" required />
        <DateField label="Last day, if more than one" name="last_day" />
        <Field label="Kind, such as release or campaign" name="kind" maxLength={60} />
        <MainButton type="submit" className="self-end">
          Add the event
        </MainButton>
      </form>
    </Dialog>
  );
}
