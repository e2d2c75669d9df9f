// A decision ends every look: make a move (m), leave it alone with a reason (x), set it aside until a day (s). What is decided
// stays visible here and on the row.
import { Link } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { toast } from "sonner";
import { api, type Schemas } from "../api/client";
import { type Mark, type SubjectAsked, useMarks, useProposal } from "../api/hooks";
import { count, day } from "../shared/format";
import { useKeys } from "../shared/keys";
import { Button, Choice, Dialog, EvidenceMark, Failed, Field, MainButton, Words } from "../shared/parts";
import { useAct } from "../shared/useAct";
import { EFFORTS } from "./words";

type Props = { site: Schemas["SiteShown"]; subject: SubjectAsked; name: string; scope: Record<string, unknown> };
type Way = "move" | "leave" | "aside";

export function Deciding({ site, subject, name, scope }: Props) {
  const [way, setWay] = useState<Way | null>(null);
  const mark = useMarks(site.slug)(subject);
  const may = site.may_change;
  const ofClash = subject.page === undefined; // how a clash is settled stands in its own form
  useKeys(may ? { m: () => setWay("move"), x: () => setWay("leave"), s: () => setWay("aside") } : {});
  const close = () => setWay(null);
  return (
    <div
      className="mt-2 flex flex-wrap items-baseline gap-x-4 gap-y-1 border-rule border-y py-1.5"
      data-testid="deciding"
    >
      {mark && !(ofClash && mark.decision && !mark.until) && <Decided slug={site.slug} mark={mark} may={may} />}
      {may && (
        <>
          <Button plain onClick={() => setWay("move")} title="Make a move (m)">
            Make a move
          </Button>
          <Button plain onClick={() => setWay("leave")} title="Leave alone (x)">
            Leave alone
          </Button>
          <Button plain onClick={() => setWay("aside")} title="Set aside until a day (s)">
            Set aside
          </Button>
        </>
      )}
      {way === "move" && <MakeMove site={site} subject={subject} name={name} scope={scope} close={close} />}
      {(way === "leave" || way === "aside") && (
        <SetAside slug={site.slug} subject={subject} name={name} way={way} close={close} />
      )}
    </div>
  );
}

function Decided({ slug, mark, may }: { slug: string; mark: Mark; may: boolean }) {
  const act = useAct();
  const { decision } = mark;
  return (
    <p className="w-full">
      <MarkWord mark={mark} />{" "}
      {mark.until && <span>{mark.move ? `due ${day(mark.until)}` : `until ${day(mark.until)}`} </span>}
      {mark.why && <span>– {mark.why} </span>}
      {mark.by && <span className="text-faint">({mark.by}) </span>}
      {mark.move !== null ? (
        <Link to="/$site/moves" params={{ site: slug }} search={{ move: mark.move }} className="underline">
          to the move
        </Link>
      ) : (
        may &&
        decision !== null && (
          <Button
            plain
            onClick={() =>
              act(
                () =>
                  api.DELETE("/api/sites/{slug}/decisions/{decision_id}", {
                    params: { path: { slug, decision_id: decision } },
                  }),
                "Taken back: it is open again.",
              )
            }
          >
            take it back
          </Button>
        )
      )}
    </p>
  );
}

/** What is decided, as it stands on rows. */
export function MarkWord({ mark }: { mark: Mark }) {
  const done = mark.word === "made" || mark.word === "measured";
  return (
    <span
      className={`shrink-0 border px-1 text-xs ${done ? "border-spruce text-spruce" : mark.move ? "border-ink" : "border-strong-rule text-faint"}`}
      title={mark.why || undefined}
    >
      {mark.word}
    </span>
  );
}

function MakeMove({ site, subject, name, scope, close }: Props & { close: () => void }) {
  const proposal = useProposal(site.slug, { ...scope, ...subject });
  const act = useAct();
  const [busy, setBusy] = useState(false);
  const path = { slug: site.slug };

  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = Object.fromEntries(new FormData(event.currentTarget)) as Record<string, string>;
    const body = {
      kind: form.kind as Schemas["MoveGiven"]["kind"],
      effort: form.effort as Schemas["MoveGiven"]["effort"],
      note: form.note ?? "",
      who: form.who || null,
      due: form.due || null,
    };
    setBusy(true);
    const kept = await act(
      () => api.POST("/api/sites/{slug}/moves", { params: { path, query: { ...scope, ...subject } }, body }),
      (move) =>
        toast("Kept as a move.", {
          action: {
            label: "Undo",
            onClick: () =>
              act(() =>
                api.DELETE("/api/sites/{slug}/moves/{move_id}", { params: { path: { ...path, move_id: move.id } } }),
              ),
          },
        }),
    );
    setBusy(false);
    if (kept) close();
  }

  const told = proposal.data;
  return (
    <Dialog title="Make a move" open onOpen={(open) => !open && close()}>
      <p className="mb-2 break-words font-medium">{name}</p>
      {proposal.error && <Failed error={proposal.error} retry={() => proposal.refetch()} />}
      {!told && !proposal.error && <p className="text-faint">What it would bring is being told…</p>}
      {told && (
        <form onSubmit={submit} className="space-y-3">
          <p className="font-serif text-[15px] leading-snug">{told.reason}</p>
          {told.gain !== null && (
            <p>
              Expected: about {count(told.gain)} clicks a month, at least {count(told.gain_cautious)}{" "}
              <EvidenceMark grade={told.evidence} />
            </p>
          )}
          <Choice label="what to do" name="kind" defaultValue={told.kind}>
            {Object.entries(told.kinds).map(([kind, words]) => (
              <option key={kind} value={kind}>
                {words}
                {kind === told.kind ? " (proposed)" : ""}
              </option>
            ))}
          </Choice>
          <div className="grid grid-cols-3 gap-3">
            <Choice label="effort" name="effort" defaultValue={told.effort}>
              {Object.entries(EFFORTS).map(([effort, words]) => (
                <option key={effort} value={effort}>
                  {words}
                </option>
              ))}
            </Choice>
            <Choice label="who" name="who" defaultValue="">
              <option value="">nobody yet</option>
              {told.people.map((person) => (
                <option key={person}>{person}</option>
              ))}
            </Choice>
            <Field label="due" name="due" type="date" />
          </div>
          <Words label="note: what exactly, and why" name="note" />
          <MainButton type="submit" disabled={busy} autoFocus>
            Keep the move
          </MainButton>
        </form>
      )}
    </Dialog>
  );
}

type AsideProps = { slug: string; subject: SubjectAsked; name: string; way: "leave" | "aside"; close: () => void };

function SetAside({ slug, subject, name, way, close }: AsideProps) {
  const act = useAct();
  const aside = way === "aside";
  // A clash that is left as it is is accepted.
  const choice = aside ? "aside" : subject.page === undefined ? "accept" : "leave";

  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = Object.fromEntries(new FormData(event.currentTarget)) as Record<string, string>;
    const { page, query } = subject;
    const body = { subjects: [{ page, query }], choice, note: form.note ?? "", until: form.until || null };
    const kept = await act(
      () => api.POST("/api/sites/{slug}/decisions", { params: { path: { slug } }, body }),
      ([decision]) =>
        toast(aside ? "Set aside." : "Left alone.", {
          action: {
            label: "Undo",
            onClick: () =>
              decision &&
              act(() =>
                api.DELETE("/api/sites/{slug}/decisions/{decision_id}", {
                  params: { path: { slug, decision_id: decision.id } },
                }),
              ),
          },
        }),
    );
    if (kept) close();
  }

  return (
    <Dialog title={aside ? "Set aside" : "Leave alone"} open onOpen={(open) => !open && close()}>
      <p className="mb-2 break-words font-medium">{name}</p>
      <form onSubmit={submit} className="space-y-3">
        {aside && (
          <Field label="until" name="until" type="date" required min={tomorrow()} defaultValue={inFourWeeks()} />
        )}
        <Words label={aside ? "why (if you like)" : "why"} name="note" required={!aside} autoFocus={!aside} />
        <MainButton type="submit">{aside ? "Set aside" : "Leave alone"}</MainButton>
      </form>
    </Dialog>
  );
}

const inDays = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);
const tomorrow = () => inDays(1);
const inFourWeeks = () => inDays(28);
