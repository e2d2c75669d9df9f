import { type ReactNode, useState } from "react";
import type { Schemas } from "../api/client";
import type { Rules } from "./hooks";

export type RulePart = {
  rules: Rules;
  effect: Schemas["RulesEffect"] | undefined;
  change: (part: Partial<Rules>) => void;
};

/** A rule on the left, its effect on the right. */
export function RuleRow({
  title,
  says,
  form,
  children,
}: {
  title: string;
  says: string;
  form: ReactNode;
  children: ReactNode;
}) {
  return (
    <section
      aria-label={title}
      className="mt-5 grid grid-cols-[24rem_minmax(0,1fr)] gap-x-8 gap-y-2 max-md:grid-cols-1"
    >
      <div className="border-ink border-t pt-1.5">
        <h2 className="text-lg">{title}</h2>
        <p className="mb-2 text-faint text-xs">{says}</p>
        <div className="space-y-2">{form}</div>
      </div>
      <div className="min-w-0 border-ink border-t pt-1.5 max-md:border-rule" aria-live="polite">
        {children}
      </div>
    </section>
  );
}

/** Patterns, one a line. The text stays as typed; the lines are passed on unchanged. */
export function Lines(props: {
  label: string;
  value: string[];
  change: (lines: string[]) => void;
  rows?: number;
  placeholder?: string;
}) {
  const [text, setText] = useState(props.value.join("\n"));
  const lines = (of: string) =>
    of
      .split("\n")
      .map((line) => line.trim())
      .filter(Boolean);
  // Changed from outside (restored, or added by a button): show it.
  const shown = JSON.stringify(lines(text)) === JSON.stringify(props.value) ? text : props.value.join("\n");
  return (
    <label className="block">
      <span className="mb-0.5 block text-faint">{props.label}</span>
      <textarea
        value={shown}
        rows={props.rows ?? 2}
        spellCheck={false}
        placeholder={props.placeholder}
        onChange={(event) => {
          setText(event.target.value);
          props.change(lines(event.target.value));
        }}
        className="w-full border border-strong-rule bg-sheet px-2 py-1 font-mono text-xs"
      />
    </label>
  );
}

/** The pattern that matches exactly this text. */
export const exactly = (text: string) => `^${text.replace(/[.*+?^${}()|[\]\\]/g, "\\$&")}$`;
