// "How it's calculated": the plain answer, the rule applied to the current row, then formula and source (docs/methods.md).
import { lazy, type ReactNode, Suspense, useState } from "react";
import { ask } from "../api/ask";
import { Dialog } from "./Dialog";
import { Button, Failed } from "./parts";

const MethodText = lazy(() => import("./MethodText"));

type Props = { name: string; label?: string; example?: ReactNode };

export function Method({ name, label = "How it's calculated", example }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button plain className="min-h-6 text-faint text-xs" onClick={() => setOpen(true)}>
        {label}
      </Button>
      {open && <MethodDialog name={name} onOpen={setOpen} example={example} />}
    </>
  );
}

type DialogProps = { name: string; onOpen: (open: boolean) => void; example?: ReactNode };

export function MethodDialog({ name, onOpen, example }: DialogProps) {
  const methods = ask.useQuery("get", "/api/methods", {}, { staleTime: Number.POSITIVE_INFINITY });
  const method = methods.data?.find((one) => one.name === name);
  return (
    <Dialog title={method?.title ?? "How it's calculated"} open onOpen={onOpen}>
      {methods.error && <Failed error={methods.error} retry={() => methods.refetch()} />}
      <Suspense fallback={null}>
        {method && <MethodText text={method.text} measured={method.measured} example={example} />}
      </Suspense>
    </Dialog>
  );
}
