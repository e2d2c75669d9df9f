// Suggestions of a text service: requested one by one, checked, and inserted only by the writer.
import { useRef, useState } from "react";
import { toast } from "sonner";
import { ask, ofSite } from "../api/ask";
import { api, ProblemError, type Schemas, values } from "../api/client";
import { ConnectionDialog } from "../data/ConnectionDialog";
import { useConnections } from "../data/hooks";
import { Dialog } from "../shared/Dialog";
import { Part } from "../shared/Part";
import { Button, Choice, Field, MainButton, Words } from "../shared/parts";
import { useAct } from "../shared/useAct";
import { asHeadings } from "./BriefPanel";

type Task = Schemas["HelpInput"]["task"];
const TASKS: Record<Task, string> = {
  outline: "An outline",
  titles: "Titles",
  descriptions: "Descriptions",
  "short answer": "A short answer",
  paragraph: "A paragraph on a term",
};
export type Wish = { task: Task; term: string };
type Props = {
  slug: string;
  id: number;
  may: boolean;
  wish: Wish;
  setWish: (wish: Wish) => void;
  insert: (html: string) => void;
  append: (html: string) => void;
  setWords: (part: { title?: string; description?: string }) => void;
};

const escaped = (text: string) => text.replaceAll("&", "&amp;").replaceAll("<", "&lt;");

export function HelpPanel({ slug, id, may, wish, setWish, insert, append, setWords }: Props) {
  const settings = ask.useQuery("get", "/api/sites/{slug}/help", ofSite(slug), { staleTime: 60_000 });
  const [answer, setAnswer] = useState<Schemas["Helped"] | null>(null);
  const [editing, setEditing] = useState(false);
  const [connecting, setConnecting] = useState(false);
  const connection = useConnections(slug).data?.find((one) => one.source === "text");
  const asking = useRef<AbortController>(null);
  const [waits, setWaits] = useState(false);
  const [failed, setFailed] = useState<string | null>(null);

  async function start() {
    asking.current?.abort();
    const mine = new AbortController();
    asking.current = mine;
    setWaits(true);
    setFailed(null);
    try {
      const params = { path: { slug, draft_id: id } };
      setAnswer(
        values(await api.POST("/api/sites/{slug}/drafts/{draft_id}/help", { params, body: wish, signal: mine.signal })),
      );
    } catch (error) {
      if (!mine.signal.aborted) {
        if (!(error instanceof ProblemError)) throw error;
        setFailed(`${error.problem.detail} ${error.problem.remedy}`);
      }
    } finally {
      if (asking.current === mine) setWaits(false);
    }
  }
  function cancel() {
    asking.current?.abort();
    setWaits(false);
  }

  function take(text: string) {
    if (!answer) return;
    if (answer.task === "titles") setWords({ title: text });
    else if (answer.task === "descriptions") setWords({ description: text });
    else insert(`<p>${escaped(text)}</p>`);
    toast("Taken over.");
  }
  return (
    <div data-testid="draft-help">
      <p className="text-faint">
        A text service proposes words; you decide what enters the draft. Read what you take: it may be untrue.
      </p>
      {settings.data && !settings.data.connected ? (
        <p className="mt-2">
          No text service is connected.{" "}
          {may && (
            <Button plain onClick={() => setConnecting(true)}>
              Connect one
            </Button>
          )}
        </p>
      ) : (
        <WishForm
          may={may}
          wish={wish}
          setWish={setWish}
          start={start}
          cancel={waits ? cancel : null}
          edit={() => setEditing(true)}
          connect={() => setConnecting(true)}
        />
      )}
      {failed && (
        <p role="alert" className="mt-2 text-rust">
          {failed}
        </p>
      )}
      {answer && <Proposals may={may} answer={answer} take={take} append={append} />}
      {editing && settings.data && (
        <Instructions
          slug={slug}
          task={wish.task}
          stored={settings.data.instructions[wish.task] ?? ""}
          close={() => setEditing(false)}
        />
      )}
      {connecting && (
        <ConnectionDialog slug={slug} source="text" stored={connection} close={() => setConnecting(false)} />
      )}
    </div>
  );
}

type WishProps = {
  may: boolean;
  wish: Wish;
  setWish: (wish: Wish) => void;
  start: () => void;
  cancel: (() => void) | null; // null unless an answer is awaited
  edit: () => void;
  connect: () => void;
};

function WishForm({ may, wish, setWish, start, cancel, edit, connect }: WishProps) {
  return (
    <div className="mt-2 space-y-2">
      <Choice
        label="Ask for"
        value={wish.task}
        onChange={(event) => setWish({ ...wish, task: event.target.value as Task })}
      >
        {Object.entries(TASKS).map(([task, name]) => (
          <option key={task} value={task}>
            {name}
          </option>
        ))}
      </Choice>
      {wish.task === "paragraph" && (
        <Field label="Term" value={wish.term} onChange={(event) => setWish({ ...wish, term: event.target.value })} />
      )}
      <p className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <MainButton
          onClick={start}
          disabled={!may || cancel !== null || (wish.task === "paragraph" && !wish.term.trim())}
        >
          Ask
        </MainButton>
        {cancel && (
          <span role="status">
            Waiting for the text service.{" "}
            <Button plain onClick={cancel}>
              Cancel
            </Button>
          </span>
        )}
        {may && (
          <span className="ml-auto flex gap-4">
            <Button plain onClick={edit}>
              Instructions
            </Button>
            <Button plain onClick={connect}>
              Connection
            </Button>
          </span>
        )}
      </p>
    </div>
  );
}

type ProposalsProps = {
  may: boolean;
  answer: Schemas["Helped"];
  take: (text: string) => void;
  append: (html: string) => void;
};

function Proposals({ may, answer, take, append }: ProposalsProps) {
  const whole = answer.task === "outline" ? answer.proposals.map((one) => one.text) : null;
  return (
    <Part
      title={answer.proposals.length ? "Proposed" : "No proposals"}
      aside={
        may &&
        whole &&
        whole.length > 0 && (
          <Button plain onClick={() => append(asHeadings(whole))}>
            Add all as headings
          </Button>
        )
      }
    >
      <ul className="space-y-2">
        {answer.proposals.map((one) => (
          <li key={one.text} className="border-ochre border-l-2 pl-2">
            <p>{one.text}</p>
            {one.faults.length > 0 && <p className="text-ochre text-xs">{one.faults.join("; ")}</p>}
            {may && !whole && (
              <Button plain onClick={() => take(one.text)} className="text-xs">
                {answer.task === "titles" || answer.task === "descriptions" ? "Use it" : "Insert at the cursor"}
              </Button>
            )}
          </li>
        ))}
      </ul>
      {answer.proposals.length === 0 && (
        <p className="text-faint">Too few competing pages were fetched, or none uses it.</p>
      )}
      <p className="mt-2 text-faint text-xs">{answer.by}.</p>
    </Part>
  );
}

type InstructionsProps = { slug: string; task: Task; stored: string; close: () => void };

function Instructions({ slug, task, stored, close }: InstructionsProps) {
  const act = useAct();
  const [text, setText] = useState(stored);
  const keep = (next: string) =>
    act(
      () => api.PUT("/api/sites/{slug}/help", { ...ofSite(slug), body: { task, text: next } }),
      () => {
        toast(next ? "Saved for everyone who writes for this site." : "The default instruction is restored.");
        close();
      },
    );
  return (
    <Dialog
      title={`Instruction for the service: ${TASKS[task].toLowerCase()}`}
      open
      onOpen={(open) => !open && close()}
    >
      <div className="space-y-3">
        <Words
          label="Instruction"
          rows={6}
          value={text}
          maxLength={4000}
          onChange={(event) => setText(event.target.value)}
        />
        <p className="flex gap-3">
          <MainButton onClick={() => keep(text)}>Keep</MainButton>
          <Button onClick={() => keep("")}>Back to the default</Button>
        </p>
      </div>
    </Dialog>
  );
}
