// Two panes side by side with a divider for mouse and keyboard; below 900 px one above the other.
import { type KeyboardEvent, type PointerEvent, type ReactNode, useEffect, useRef, useState } from "react";
import { useWide } from "./useWide";

const STEP = 2;
const bounded = (share: number) => Math.min(75, Math.max(35, share));

export function SplitPane({ name, left, right }: { name: string; left: ReactNode; right: ReactNode }) {
  const key = `zugzwang-split-${name}`;
  const [share, setShare] = useState(() => bounded(Number(localStorage.getItem(key)) || 60));
  const wide = useWide();
  const box = useRef<HTMLDivElement>(null);

  useEffect(() => localStorage.setItem(key, String(share)), [key, share]);

  function drag(event: PointerEvent<HTMLDivElement>) {
    if (!event.currentTarget.hasPointerCapture(event.pointerId) || !box.current) return;
    const { left: start, width } = box.current.getBoundingClientRect();
    setShare(bounded(((event.clientX - start) / width) * 100));
  }

  function step(event: KeyboardEvent) {
    const by = { ArrowLeft: -STEP, ArrowRight: STEP }[event.key];
    if (by) {
      event.preventDefault();
      setShare((now) => bounded(now + by));
    }
  }

  if (!wide) {
    return (
      <div className="flex min-h-0 flex-1 flex-col overflow-auto">
        <div className="h-[60vh] shrink-0">{left}</div>
        <div tabIndex={-1} className="border-ink border-t outline-none">
          {right}
        </div>
      </div>
    );
  }
  return (
    <div ref={box} className="flex min-h-0 flex-1">
      <div style={{ width: `${share}%` }} className="min-w-0">
        {left}
      </div>
      {/* biome-ignore lint/a11y/useSemanticElements: a movable separator is a widget, which hr is not */}
      <div
        role="separator"
        aria-orientation="vertical"
        aria-label="Divider between list and evidence"
        aria-valuenow={Math.round(share)}
        aria-valuemin={35}
        aria-valuemax={75}
        tabIndex={0}
        onKeyDown={step}
        onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onPointerMove={drag}
        className="w-1.5 shrink-0 cursor-col-resize touch-none border-rule border-r hover:bg-shade"
      />
      {/* Whoever clicks in it has the focus there, so that the keys that scroll are its own. */}
      <div tabIndex={-1} className="min-w-0 flex-1 overflow-auto outline-none">
        {right}
      </div>
    </div>
  );
}
