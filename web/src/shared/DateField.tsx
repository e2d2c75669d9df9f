// A date field: typed or picked from a calendar; always shown as "16 Aug 2026".
import { CalendarDays } from "lucide-react";
import { Popover as RadixPopover } from "radix-ui";
import { type KeyboardEvent, lazy, Suspense, useEffect, useRef, useState } from "react";
import { day, dayTyped } from "./format";

const Calendar = lazy(() => import("./Calendar"));

type Props = {
  label: string;
  name?: string; // in a form
  value?: string; // ISO, or empty
  defaultValue?: string;
  min?: string;
  max?: string;
  required?: boolean;
  onDay?: (iso: string) => void;
};

export function DateField({ label, name, value, defaultValue, min, max, required, onDay }: Props) {
  const [stored, setCurrent] = useState(value ?? defaultValue ?? "");
  const [typed, setTyped] = useState(stored && day(stored));
  const [open, setOpen] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (value === undefined) return;
    setCurrent(value);
    // Typed text is not corrected meanwhile.
    if (document.activeElement !== input.current) setTyped(value && day(value));
  }, [value]);

  function take(iso: string) {
    setCurrent(iso);
    if (iso !== stored) onDay?.(iso);
  }
  function choose(iso: string) {
    take(iso);
    setTyped(iso && day(iso));
    input.current?.setCustomValidity("");
  }
  function outside(iso: string): string {
    if (iso && min && iso < min) return `Choose a day from ${day(min)}.`;
    return iso && max && iso > max ? `Choose a day until ${day(max)}.` : "";
  }
  function settle() {
    const iso = typed.trim() ? dayTyped(typed) : "";
    const wrong = iso === undefined ? "Write the day as 16 Aug 2026." : outside(iso);
    if (wrong) input.current?.setCustomValidity(wrong);
    else choose(iso ?? "");
  }
  function onKey(event: KeyboardEvent) {
    if (event.key === "Enter") settle();
    if (event.key === "ArrowDown" && event.altKey) setOpen(true);
  }

  return (
    <div>
      <span className="mb-0.5 block text-faint" aria-hidden="true">
        {label}
      </span>
      <span className="flex">
        <input
          ref={input}
          aria-label={label}
          value={typed}
          required={required}
          placeholder="16 Aug 2026"
          size={11}
          onChange={(event) => {
            setTyped(event.target.value);
            event.target.setCustomValidity("");
            // A readable date counts at once; it is reformatted on leaving the field.
            const iso = event.target.value.trim() ? dayTyped(event.target.value) : "";
            if (iso !== undefined && !outside(iso)) take(iso);
          }}
          onBlur={settle}
          onKeyDown={onKey}
          className="w-full min-w-0 border border-strong-rule bg-sheet px-2 py-1"
        />
        <RadixPopover.Root open={open} onOpenChange={setOpen}>
          <RadixPopover.Trigger
            aria-label="Calendar"
            className="border border-strong-rule border-l-0 bg-sheet px-1.5 hover:bg-shade"
          >
            <CalendarDays size={14} aria-hidden="true" />
          </RadixPopover.Trigger>
          <RadixPopover.Portal>
            <RadixPopover.Content
              align="end"
              sideOffset={4}
              collisionPadding={8}
              aria-label="Calendar"
              className="z-50 border border-strong-rule bg-sheet p-3 shadow-lg"
            >
              <Suspense fallback={<div className="h-64 w-60" />}>
                <Calendar
                  stored={stored}
                  min={min}
                  max={max}
                  pick={(iso) => {
                    choose(iso);
                    setOpen(false);
                  }}
                />
              </Suspense>
            </RadixPopover.Content>
          </RadixPopover.Portal>
        </RadixPopover.Root>
      </span>
      {name && <input type="hidden" name={name} value={stored} />}
    </div>
  );
}
