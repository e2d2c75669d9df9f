// The views of a place, by name; the chosen one underlined.
import type { ReactNode } from "react";

type Props<View extends string> = {
  views: Record<View, string>;
  chosen: View;
  choose: (view: View) => void;
  aside?: ReactNode;
  plain?: true; // within a line of text
};

export function Views<View extends string>({ views, chosen, choose, aside, plain }: Props<View>) {
  return (
    <div
      className={
        plain ? "contents" : "flex flex-wrap items-baseline gap-x-5 gap-y-1 border-rule border-b px-4 pt-1.5 pb-1"
      }
    >
      {(Object.keys(views) as View[]).map((view) => (
        <button
          key={view}
          type="button"
          aria-pressed={view === chosen}
          onClick={() => choose(view)}
          className={`border-b-2 ${plain ? "" : "font-serif text-lead"} ${view === chosen ? "border-ink font-semibold" : "border-transparent text-faint hover:text-ink"}`}
        >
          {views[view]}
        </button>
      ))}
      {aside && <span className="ml-auto">{aside}</span>}
    </div>
  );
}
