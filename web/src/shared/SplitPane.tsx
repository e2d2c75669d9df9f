// Two panes side by side with a divider for mouse and keyboard; below 820 px one above the other.
import { MoveHorizontal } from "lucide-react";
import { type KeyboardEvent, type PointerEvent, type ReactNode, useEffect, useRef, useState } from "react";
import { useRoom } from "./useRoom";

const STEP = 2;
const LIST_MOST = "47.5rem"; // unless one has drawn it wider
const STOPS = [40, 50, 60];
const nextStop = (share: number) => STOPS.find((stop) => stop > share) ?? 40;
const bounded = (share: number) => Math.min(75, Math.max(35, share));

export function SplitPane({ name, left, right }: { name: string; left: ReactNode; right: ReactNode }) {
  const key = `zugzwang-split-${name}`;
  const [chosen, setShare] = useState(() => Number(localStorage.getItem(key)) || null);
  const share = bounded(chosen ?? 60);
  const wide = useRoom() === "wide";
  const box = useRef<HTMLDivElement>(null);

  useEffect(() => {
    if (chosen !== null) localStorage.setItem(key, String(chosen));
  }, [key, chosen]);

  function drag(event: PointerEvent<HTMLDivElement>) {
    if (!event.currentTarget.hasPointerCapture(event.pointerId) || !box.current) return;
    const { left: start, width } = box.current.getBoundingClientRect();
    setShare(bounded(((event.clientX - start) / width) * 100));
  }

  function step(event: KeyboardEvent) {
    const by = { ArrowLeft: -STEP, ArrowRight: STEP }[event.key];
    if (by) {
      event.preventDefault();
      setShare(bounded(share + by));
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
      <div style={{ width: `${share}%`, maxWidth: chosen === null ? LIST_MOST : undefined }} className="min-w-0">
        {left}
      </div>
      <div className="relative w-1.5 shrink-0 border-rule border-r">
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
          className="absolute inset-0 cursor-col-resize touch-none hover:bg-shade"
        />
        <button
          type="button"
          aria-label={`Width of the list: ${Math.round(share)} %. Change to ${nextStop(share)} %`}
          title={`List ${nextStop(share)} % wide`}
          onClick={() => setShare(nextStop(share))}
          className="absolute bottom-0 left-1/2 z-10 grid h-6 w-6 -translate-x-1/2 place-items-center border border-rule bg-paper text-faint hover:border-ink hover:text-ink"
        >
          <MoveHorizontal size={12} aria-hidden="true" />
        </button>
      </div>
      {/* Whoever clicks in it has the focus there, so that the keys that scroll are its own. */}
      <div tabIndex={-1} className="min-w-0 flex-1 overflow-auto outline-none">
        {right}
      </div>
    </div>
  );
}
