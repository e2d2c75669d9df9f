// "How it's calculated": the words of docs/methods.md on a rule, beside what it computed.
import { lazy, Suspense, useState } from "react";
import { ask } from "../api/ask";
import { Button, Dialog, Failed } from "./parts";

const MethodText = lazy(() => import("./MethodText"));

export function Method({ name, label = "How it's calculated" }: { name: string; label?: string }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button plain className="min-h-6 text-faint text-xs" onClick={() => setOpen(true)}>
        {label}
      </Button>
      {open && <MethodDialog name={name} onOpen={setOpen} />}
    </>
  );
}

export function MethodDialog({ name, onOpen }: { name: string; onOpen: (open: boolean) => void }) {
  const methods = ask.useQuery("get", "/api/methods", {}, { staleTime: Number.POSITIVE_INFINITY });
  const method = methods.data?.find((one) => one.name === name);
  return (
    <Dialog title={method?.title ?? "How it's calculated"} open onOpen={onOpen}>
      {methods.error && <Failed error={methods.error} retry={() => methods.refetch()} />}
      <Suspense fallback={null}>{method && <MethodText text={method.text} measured={method.measured} />}</Suspense>
    </Dialog>
  );
}
