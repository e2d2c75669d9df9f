// Small shared parts with built-in accessibility.
import clsx from "clsx";
import { X } from "lucide-react";
import { Dialog as RadixDialog, Popover as RadixPopover } from "radix-ui";
import type { ComponentProps, ReactNode } from "react";
import { ProblemError } from "../api/client";
import type { Grade } from "../state/view";
import { meaningOf } from "./Hint";

export function Button({ className, plain, ...rest }: ComponentProps<"button"> & { plain?: boolean }) {
  return (
    <button
      type="button"
      className={clsx(
        "inline-flex items-center gap-1.5 whitespace-nowrap disabled:opacity-50",
        plain
          ? "underline decoration-rule decoration-1 underline-offset-3 hover:decoration-ink"
          : "border border-strong-rule bg-sheet px-2.5 py-1 hover:border-ink",
        className,
      )}
      {...rest}
    />
  );
}

export function MainButton({ className, ...rest }: ComponentProps<"button">) {
  return (
    <button
      type="button"
      className={clsx("bg-ink px-3 py-1.5 font-medium text-paper hover:bg-spruce disabled:opacity-50", className)}
      {...rest}
    />
  );
}

export function Field({ label, hint, ...rest }: ComponentProps<"input"> & { label: string; hint?: string }) {
  return (
    <label className="block">
      <span className="mb-0.5 block text-faint">{label}</span>
      <input className="w-full border border-strong-rule bg-sheet px-2 py-1" {...rest} />
      {hint && <span className="mt-0.5 block text-xs text-faint">{hint}</span>}
    </label>
  );
}

export function Choice({ label, children, ...rest }: ComponentProps<"select"> & { label: string }) {
  return (
    <label className="block">
      <span className="mb-0.5 block text-faint">{label}</span>
      <select className="w-full text-ellipsis border border-strong-rule bg-sheet px-2 py-1" {...rest}>
        {children}
      </select>
    </label>
  );
}

export function Words({ label, ...rest }: ComponentProps<"textarea"> & { label: string }) {
  return (
    <label className="block">
      <span className="mb-0.5 block text-faint">{label}</span>
      <textarea rows={3} maxLength={5000} className="w-full border border-strong-rule bg-sheet px-2 py-1" {...rest} />
    </label>
  );
}

/** A word that opens something: the pieces of the top line. */
export function Opening(props: {
  label: ReactNode;
  name: string;
  open?: boolean;
  onOpen?: (open: boolean) => void;
  width?: number;
  children: ReactNode;
}) {
  return (
    <RadixPopover.Root open={props.open} onOpenChange={props.onOpen}>
      <RadixPopover.Trigger asChild>
        <Button plain className="whitespace-normal! py-1 text-left" title={props.name}>
          {props.label}
        </Button>
      </RadixPopover.Trigger>
      <RadixPopover.Portal>
        <RadixPopover.Content
          align="start"
          sideOffset={6}
          collisionPadding={8}
          aria-label={props.name}
          style={{ width: props.width ?? 340 }}
          className="z-30 max-h-[80vh] max-w-[96vw] overflow-auto border border-strong-rule bg-sheet p-4 shadow-lg"
        >
          {props.children}
        </RadixPopover.Content>
      </RadixPopover.Portal>
    </RadixPopover.Root>
  );
}

/** The focus starts in the first field, so typing lands there and no key closes it unread. */
function intoFirstField(event: Event) {
  const within = event.currentTarget as HTMLElement;
  const field = within.querySelector<HTMLElement>("input:not([type=hidden]), textarea, select");
  if (!field) return;
  event.preventDefault();
  field.focus();
}

export function Dialog(props: { title: string; open: boolean; onOpen: (open: boolean) => void; children: ReactNode }) {
  return (
    <RadixDialog.Root open={props.open} onOpenChange={props.onOpen}>
      <RadixDialog.Portal>
        <RadixDialog.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <RadixDialog.Content
          aria-describedby={undefined}
          onOpenAutoFocus={intoFirstField}
          className="fixed top-1/2 left-1/2 z-50 max-h-[86vh] w-[min(30rem,94vw)] -translate-x-1/2 -translate-y-1/2 overflow-auto border border-strong-rule bg-sheet p-5"
        >
          <div className="mb-3 flex items-start justify-between gap-4">
            <RadixDialog.Title className="text-xl">{props.title}</RadixDialog.Title>
            <RadixDialog.Close aria-label="Close" className="p-1">
              <X size={16} />
            </RadixDialog.Close>
          </div>
          {props.children}
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  );
}

/** The evidence: a square filled by grade, and the word. */
export function EvidenceMark({ grade }: { grade: Grade }) {
  return (
    <span className="inline-flex items-center gap-1" title={meaningOf(grade)}>
      <svg width="9" height="9" viewBox="0 0 9 9" aria-hidden="true">
        <rect x="0.5" y="0.5" width="8" height="8" fill="none" stroke="currentColor" />
        {grade === "firm" && <rect width="9" height="9" fill="currentColor" />}
        {grade === "likely" && <path d="M0 0h4.5v4.5H0zM4.5 4.5H9V9H4.5z" fill="currentColor" />}
      </svg>
      <span className={grade === "too little data" ? "text-faint" : ""}>{grade}</span>
    </span>
  );
}

/** An empty state: what is the case, why, and a next step. */
export function Notice(props: { title: string; children?: ReactNode; action?: ReactNode; alert?: boolean }) {
  return (
    <div role={props.alert ? "alert" : "status"} className="mx-auto max-w-md px-6 py-10">
      <h2 className="mb-1 text-lg">{props.title}</h2>
      <div className="text-faint">{props.children}</div>
      {props.action && <div className="mt-4">{props.action}</div>}
    </div>
  );
}

export function Failed({ error, retry }: { error: unknown; retry?: () => void }) {
  const problem = error instanceof ProblemError ? error.problem : null;
  return (
    <Notice
      alert
      title={problem?.title ?? "Something went wrong"}
      action={retry && <Button onClick={retry}>Try again</Button>}
    >
      {problem ? `${problem.detail} ${problem.remedy}` : String(error)}
    </Notice>
  );
}
