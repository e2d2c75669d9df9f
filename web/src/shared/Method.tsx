// "How it's calculated": the plain answer, the rule applied to the current row, then formula and source (docs/methods.md).
import { lazy, type ReactNode, Suspense, useState } from "react";
import { ask } from "../api/ask";
import { Dialog } from "./Dialog";
import { Button, Failed, Help } from "./parts";

const MethodText = lazy(() => import("./MethodText"));

type Explained = { label: string; explains: string };
type Props = { name: string; label?: string; example?: ReactNode; columns?: readonly Explained[] | undefined };

/** A question mark that opens how something is calculated; with a label, a link. */
export function Method({ name, label, example, columns }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <>
      {label ? (
        <Button plain className="text-faint text-xs" onClick={() => setOpen(true)}>
          {label}
        </Button>
      ) : (
        <Help name="How it's calculated" onClick={() => setOpen(true)} />
      )}
      {open && <MethodDialog name={name} onOpen={setOpen} example={example} columns={columns} />}
    </>
  );
}

type DialogProps = {
  name: string;
  onOpen: (open: boolean) => void;
  example?: ReactNode;
  columns?: readonly Explained[] | undefined;
};

export function MethodDialog({ name, onOpen, example, columns }: DialogProps) {
  const methods = ask.useQuery("get", "/api/methods", {}, { staleTime: Number.POSITIVE_INFINITY });
  const method = methods.data?.find((one) => one.name === name);
  return (
    <Dialog title={method?.title ?? "How it's calculated"} open onOpen={onOpen}>
      {methods.error && <Failed error={methods.error} retry={() => methods.refetch()} />}
      <Suspense fallback={null}>
        {method && <MethodText text={method.text} measured={method.measured} example={example} />}
      </Suspense>
      {columns && (
        <section aria-label="Columns" className="mt-4 border-rule border-t pt-2">
          <h3 className="text-lead">Columns of the list</h3>
          <dl className="mt-1 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
            {columns
              .filter((column) => column.label)
              .map((column) => (
                <div key={column.label} className="contents">
                  <dt className="text-faint">{column.label}</dt>
                  <dd>{column.explains}</dd>
                </div>
              ))}
          </dl>
        </section>
      )}
    </Dialog>
  );
}
