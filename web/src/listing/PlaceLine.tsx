// The first line of a place: its site, and what belongs to the whole place.
import type { ComponentProps, ReactNode } from "react";
import { SiteName } from "./TopLine";

export function PlaceLine({ children, ...site }: ComponentProps<typeof SiteName> & { children?: ReactNode }) {
  return (
    <header className="flex min-h-11 flex-wrap items-center gap-x-4 gap-y-1 border-rule border-b px-4 py-1">
      <SiteName {...site} />
      {children}
    </header>
  );
}
