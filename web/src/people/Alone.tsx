// A page outside any site: the board, a title, a form.
import type { FormEvent, ReactNode } from "react";
import { Board } from "../frame/Board";

type Props = { title: string; submit?: (event: FormEvent<HTMLFormElement>) => void; children: ReactNode };

export function Alone({ title, submit, children }: Props) {
  return (
    <main className="grid min-h-full place-items-center p-6">
      <form
        className="w-full max-w-sm space-y-4"
        onSubmit={(event) => {
          event.preventDefault();
          submit?.(event);
        }}
      >
        <div className="flex items-center gap-3 border-ink border-b pb-3">
          <Board />
          <h1 className="text-2xl">{title}</h1>
        </div>
        {children}
      </form>
    </main>
  );
}
