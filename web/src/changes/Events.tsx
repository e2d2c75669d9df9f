// The events behind the flags, in words; add, remove and restore them in place.
import { type FormEvent, useEffect, useRef } from "react";
import { toast } from "sonner";
import { api, type Schemas } from "../api/client";
import { DateField } from "../shared/DateField";
import { Opening } from "../shared/Dialog";
import { day } from "../shared/format";
import { Button, Field, MainButton } from "../shared/parts";
import { useAct } from "../shared/useAct";

type Props = {
  slug: string;
  events: Schemas["EventFlag"][];
  mayChange: boolean;
  week: string | null; // the week picked in the chart, which opens the form
  setWeek: (week: string | null) => void;
};
const TODAY = "";

export function Events({ slug, events, mayChange, week, setWeek }: Props) {
  const act = useAct();
  const title = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (week !== null) title.current?.focus();
  }, [week]);
  const add = (body: Schemas["EventInput"]) =>
    act(() => api.POST("/api/sites/{slug}/events", { params: { path: { slug } }, body }));

  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = Object.fromEntries(new FormData(event.currentTarget)) as Record<string, string>;
    const first = form.first_day ?? "";
    const body = {
      title: form.title ?? "",
      first_day: first,
      last_day: form.last_day || null,
      kind: form.kind ?? "",
      note: "",
    };
    if (await add(body)) setWeek(null);
  }
  const remove = (one: Schemas["EventFlag"]) =>
    act(
      () => api.DELETE("/api/sites/{slug}/events/{event_id}", { params: { path: { slug, event_id: one.id } } }),
      () =>
        toast(`“${one.title}” is taken away.`, {
          action: { label: "Restore", onClick: () => add({ ...one, note: "" }) },
        }),
    );
  return (
    <div className="mt-1 flex flex-wrap items-baseline gap-x-4 gap-y-0.5 text-xs">
      {events.map((one, number) => (
        <span key={one.id} className="inline-flex items-baseline gap-1">
          <span className="bg-ochre px-1 font-semibold text-paper">{number + 1}</span>
          <span className="text-faint">{day(one.first_day)}</span> {one.title}
          {mayChange && (
            <Button plain className="text-faint" onClick={() => remove(one)} aria-label={`Delete ${one.title}`}>
              ×
            </Button>
          )}
        </span>
      ))}
      {mayChange && (
        <Opening
          name="Add a dated event"
          label="Add an event"
          open={week !== null}
          onOpen={(open) => setWeek(open ? TODAY : null)}
        >
          <form onSubmit={submit} className="grid grid-cols-2 gap-3" key={week}>
            <div className="col-span-2">
              <Field label="What happened" name="title" required maxLength={300} />
            </div>
            <DateField label="First day" name="first_day" required defaultValue={week ?? ""} />
            <DateField label="Last day, if more than one" name="last_day" />
            <Field label="Kind, such as release" name="kind" maxLength={60} />
            <MainButton type="submit" className="self-end">
              Add it
            </MainButton>
          </form>
        </Opening>
      )}
    </div>
  );
}
