// What opens over a place: a dialog, and a popover below a button.
import { X } from "lucide-react";
import { Dialog as RadixDialog, Popover as RadixPopover } from "radix-ui";
import type { ReactNode } from "react";
import { Button } from "./parts";

/** A word that opens something: the pieces of the top line. */
export function Opening(props: {
  label: ReactNode;
  name: string;
  open?: boolean;
  onOpen?: (open: boolean) => void;
  width?: number;
  children: ReactNode;
}) {
  return (
    <RadixPopover.Root open={props.open} onOpenChange={props.onOpen}>
      <RadixPopover.Trigger asChild>
        <Button plain className="whitespace-normal! py-1 text-left" title={props.name}>
          {props.label}
        </Button>
      </RadixPopover.Trigger>
      <RadixPopover.Portal>
        <RadixPopover.Content
          align="start"
          sideOffset={6}
          collisionPadding={8}
          aria-label={props.name}
          style={{ width: props.width ?? 340 }}
          className="z-30 max-h-[80vh] max-w-[96vw] overflow-auto border border-strong-rule bg-sheet p-4 shadow-lg"
        >
          {props.children}
        </RadixPopover.Content>
      </RadixPopover.Portal>
    </RadixPopover.Root>
  );
}

/** The focus starts in the first field, so typing lands there and no key closes it unread. */
function intoFirstField(event: Event) {
  const within = event.currentTarget as HTMLElement;
  const field = within.querySelector<HTMLElement>("input:not([type=hidden]), textarea, select");
  if (!field) return;
  event.preventDefault();
  field.focus();
}

export function Dialog(props: { title: string; open: boolean; onOpen: (open: boolean) => void; children: ReactNode }) {
  return (
    <RadixDialog.Root open={props.open} onOpenChange={props.onOpen}>
      <RadixDialog.Portal>
        <RadixDialog.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <RadixDialog.Content
          aria-describedby={undefined}
          onOpenAutoFocus={intoFirstField}
          className="fixed top-1/2 left-1/2 z-50 max-h-[86vh] w-[min(30rem,94vw)] -translate-x-1/2 -translate-y-1/2 overflow-auto border border-strong-rule bg-sheet p-5"
        >
          <div className="mb-3 flex items-start justify-between gap-4">
            <RadixDialog.Title className="text-xl">{props.title}</RadixDialog.Title>
            <RadixDialog.Close aria-label="Close" className="p-1">
              <X size={16} />
            </RadixDialog.Close>
          </div>
          {props.children}
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  );
}
