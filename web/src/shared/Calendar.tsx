// A month to pick a day from (react-day-picker), in the application's style; loaded on first use.
import { DayPicker } from "react-day-picker";

type Props = { stored: string; min?: string | undefined; max?: string | undefined; pick: (iso: string) => void };

const asDate = (iso: string) => new Date(`${iso}T12:00:00`);
const asIso = (date: Date) =>
  [date.getFullYear(), String(date.getMonth() + 1).padStart(2, "0"), String(date.getDate()).padStart(2, "0")].join("-");

export default function Calendar({ stored, min, max, pick }: Props) {
  const begin = stored || max;
  return (
    <DayPicker
      mode="single"
      autoFocus
      weekStartsOn={1}
      captionLayout="dropdown"
      {...(stored && { selected: asDate(stored) })}
      {...(begin && { defaultMonth: asDate(begin) })}
      startMonth={asDate(min ?? "2015-01-01")}
      endMonth={asDate(max ?? "2035-12-31")}
      disabled={[...(min ? [{ before: asDate(min) }] : []), ...(max ? [{ after: asDate(max) }] : [])]}
      onSelect={(date) => date && pick(asIso(date))}
      classNames={{
        months: "relative",
        month_caption: "mb-2 pr-16",
        dropdowns: "flex gap-1",
        dropdown_root: "relative",
        dropdown: "border border-strong-rule bg-sheet px-1 py-0.5",
        caption_label: "hidden",
        nav: "absolute top-0 right-0 flex",
        button_previous: "px-1.5 py-0.5 hover:bg-shade disabled:opacity-40",
        button_next: "px-1.5 py-0.5 hover:bg-shade disabled:opacity-40",
        chevron: "size-4 fill-ink",
        weekday: "px-1 pb-1 text-center font-normal text-faint text-xs",
        day: "p-0 text-center",
        day_button: "size-8 hover:bg-shade disabled:text-faint disabled:opacity-50",
        selected: "bg-ink text-paper [&_button:hover]:bg-ink",
        today: "font-semibold",
        outside: "text-faint",
      }}
    />
  );
}
