// A part of Changes: its title on a rule, with its controls on the right.
import type { ReactNode } from "react";

export function Part({ title, children, aside }: { title: ReactNode; children: ReactNode; aside?: ReactNode }) {
  return (
    <section>
      <div className="mb-1 flex items-baseline justify-between gap-x-3 border-rule border-b pb-0.5">
        <h2 className="text-lead">{title}</h2>
        {aside}
      </div>
      {children}
    </section>
  );
}
