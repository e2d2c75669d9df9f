// The head of evidence: its actions, which stay on screen while one reads, with the name once that has scrolled away.
import { type ReactNode, useEffect, useRef, useState } from "react";

type Props = { name: string; named?: boolean; children: ReactNode };

export function EvidenceHead({ name, named = false, children }: Props) {
  const [above, gone] = useGone();
  return (
    <>
      <span ref={above} aria-hidden="true" />
      <div className="evidence-head sticky top-(--evidence-top,0px) z-10 -mx-5 mt-2 flex min-h-9 flex-wrap items-center gap-x-2 gap-y-1 border-rule border-b bg-paper px-5 py-1">
        {(named || gone) && (
          <span aria-hidden={!named} className="min-w-16 flex-1 truncate font-medium" title={name}>
            {name}
          </span>
        )}
        {children}
      </div>
    </>
  );
}

/** Whether an element has scrolled out of its pane. */
function useGone(): [React.RefObject<HTMLSpanElement | null>, boolean] {
  const box = useRef<HTMLSpanElement>(null);
  const [gone, setGone] = useState(false);
  useEffect(() => {
    if (!box.current) return;
    const watch = new IntersectionObserver(([entry]) => {
      if (entry) setGone(!entry.isIntersecting && entry.boundingClientRect.top < (entry.rootBounds?.top ?? 0) + 40);
    });
    watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  return [box, gone];
}
