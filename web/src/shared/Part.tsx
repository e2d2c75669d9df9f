// A part of a file or sheet: its title over a rule, its method, the picture to save.
import type { ReactNode } from "react";
import { Method } from "./Method";

type Props = { title: ReactNode; id?: string; method?: string; aside?: ReactNode; children: ReactNode };

/** The parts of evidence: in columns where the pane has room for two. */
export function Parts({ children }: { children: ReactNode }) {
  return <div className="evidence-parts">{children}</div>;
}

export function Part({ title, id, method, aside, children }: Props) {
  return (
    <section id={id} className="mt-4 scroll-mt-9 border-rule border-t pt-2">
      <div className="mb-1 flex flex-wrap items-baseline justify-between gap-x-3">
        <h3 className="text-lead">{title}</h3>
        <span className="flex flex-wrap items-baseline gap-x-4">
          {aside}
          {method && <Method name={method} />}
        </span>
      </div>
      {children}
    </section>
  );
}
