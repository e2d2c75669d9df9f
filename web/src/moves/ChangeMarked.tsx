// Change several moves at once: day done, assignee, due day. All or none.
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { toast } from "sonner";
import { type Answer, type Row, usePeople } from "../api/ask";
import { api } from "../api/client";
import type { Marked } from "../listing/marked";
import { DateField } from "../shared/DateField";
import { Dialog } from "../shared/Dialog";
import { count } from "../shared/format";
import { Button, Choice, MainButton } from "../shared/parts";
import { useAct } from "../shared/useAct";
import { MarkedBar } from "./DecideMarked";
import { ALL_STATES, type State } from "./words";

const NAMES = ["state", "made_on", "who", "due"] as const;

export function ChangeMarked({ slug, marked }: { slug: string; marked: Marked }) {
  const [open, setOpen] = useState(false);
  const act = useAct();
  const queryClient = useQueryClient();
  const people = usePeople(slug);
  const name = `${count(marked.keys.size)} marked ${marked.keys.size === 1 ? "move" : "moves"}`;
  const clear = () => marked.set(new Set());

  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = Object.fromEntries(new FormData(event.currentTarget)) as Record<string, string>;
    const fields = Object.fromEntries(NAMES.filter((one) => form[one]).map((one) => [one, form[one]]));
    if (Object.keys(fields).length === 0) return setOpen(false);
    const stored = queryClient.getQueriesData<Answer<"moves">>({ queryKey: ["finding", "moves", slug] });
    const rows = new Map(stored.flatMap(([, list]) => list?.rows ?? []).map((row) => [String(row.id), row]));
    const moves = [...marked.keys].flatMap((key) => rows.get(key) ?? []);
    const params = { path: { slug } };
    const changed = await act(
      () => api.PATCH("/api/sites/{slug}/moves", { params, body: { moves: moves.map(seen), ...fields } }),
      (now) =>
        toast(`Changed: ${now.length} of ${name.replace(" marked", "")}.`, {
          action: { label: "Undo", onClick: () => act(() => putBack(slug, moves, now)) },
        }),
    );
    if (changed) {
      setOpen(false);
      clear();
    }
  }

  return (
    <MarkedBar name={name} clear={clear}>
      <Button plain className="min-h-6" onClick={() => setOpen(true)}>
        Change them
      </Button>
      <Dialog title={`Change ${name.replace(" marked", "")}`} open={open} onOpen={setOpen}>
        <form onSubmit={submit} className="space-y-3">
          <p className="text-faint">Empty fields stay unchanged.</p>
          <div className="grid grid-cols-2 gap-3">
            <Choice label="state" name="state" defaultValue="">
              <option value="">unchanged</option>
              {ALL_STATES.filter((state: State) => state !== "measured").map((state) => (
                <option key={state}>{state}</option>
              ))}
            </Choice>
            <DateField label="done on" name="made_on" />
            <Choice label="who" name="who" defaultValue="">
              <option value="">unchanged</option>
              {people.map((person) => (
                <option key={person}>{person}</option>
              ))}
            </Choice>
            <DateField label="due" name="due" />
          </div>
          <MainButton type="submit">Save</MainButton>
        </form>
      </Dialog>
    </MarkedBar>
  );
}

type MoveRow = Row<"moves">;
const seen = (row: MoveRow) => ({ id: row.id, seen: row.version });

/** Each move's previous values, because they may have differed. */
async function putBack(slug: string, before: MoveRow[], now: MoveRow[]) {
  const versions = new Map(now.map((row) => [row.id, row.version]));
  for (const row of before) {
    const old = Object.fromEntries(NAMES.map((name) => [name, row[name]]));
    await api.PATCH("/api/sites/{slug}/moves/{move_id}", {
      params: { path: { slug, move_id: row.id } },
      body: { seen: versions.get(row.id) ?? row.version, ...old },
    });
  }
  return { data: true };
}
