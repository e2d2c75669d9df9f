// On a phone, evidence is a screen of its own over the list; going back closes it.
import { useLocation, useNavigate, useRouter } from "@tanstack/react-router";
import { ChevronLeft, ChevronRight } from "lucide-react";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { count } from "../shared/format";

declare module "@tanstack/react-router" {
  interface HistoryState {
    evidence?: boolean; // the evidence of the current row is open
  }
}

/** Whether the evidence is open, and how to open and close it. */
export function useEvidenceSheet() {
  const open = useLocation({ select: (location) => location.state.evidence === true });
  const navigate = useNavigate();
  const router = useRouter();
  return {
    open,
    show: () => navigate({ to: ".", search: (now: object) => now, state: { evidence: true } } as never),
    close: () => router.history.back(),
  };
}

type Props = {
  index: number;
  total: number;
  walk: (step: number) => void;
  close: () => void;
  children: ReactNode;
};

export function EvidenceSheet({ index, total, walk, close, children }: Props) {
  const step = "grid h-11 w-11 place-items-center disabled:opacity-40";
  return (
    <Dialog.Root open onOpenChange={(open) => !open && close()}>
      <Dialog.Portal>
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed inset-0 z-20 flex flex-col bg-paper outline-none"
          data-testid="evidence-sheet"
        >
          <div className="flex h-12 shrink-0 items-center justify-between border-ink border-b px-1">
            <button type="button" className="h-11 px-3 underline" onClick={close}>
              Back to the list
            </button>
            <span className="flex items-center">
              <button
                type="button"
                aria-label="Previous row"
                className={step}
                disabled={index === 0}
                onClick={() => walk(-1)}
              >
                <ChevronLeft size={18} aria-hidden="true" />
              </button>
              <Dialog.Title className="font-normal font-sans">
                {count(index + 1)} of {count(total)}
              </Dialog.Title>
              <button
                type="button"
                aria-label="Next row"
                className={step}
                disabled={index >= total - 1}
                onClick={() => walk(1)}
              >
                <ChevronRight size={18} aria-hidden="true" />
              </button>
            </span>
          </div>
          <div className="min-h-0 flex-1 overflow-auto">{children}</div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
