// Small shared parts with built-in accessibility.
import clsx from "clsx";
import type { ComponentProps, ReactNode } from "react";
import { ProblemError } from "../api/client";

export function Button({ className, plain, ...rest }: ComponentProps<"button"> & { plain?: boolean }) {
  return (
    <button
      type="button"
      className={clsx(
        "inline-flex items-center gap-1.5 whitespace-nowrap disabled:opacity-50",
        plain ? "link min-h-6" : "min-h-7 border border-strong-rule bg-sheet px-2.5 hover:border-ink max-sm:min-h-9",
        className,
      )}
      {...rest}
    />
  );
}

/** A question mark that opens an explanation. Its name says of what. */
export function Help({ name, ...rest }: ComponentProps<"button"> & { name: string }) {
  return (
    <button
      type="button"
      aria-label={name}
      title={name}
      className="inline-grid h-6 w-6 shrink-0 place-items-center border border-rule text-faint text-xs hover:border-ink hover:text-ink"
      {...rest}
    >
      ?
    </button>
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
