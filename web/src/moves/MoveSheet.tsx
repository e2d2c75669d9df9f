// One move: its subject, expected gain, progress, result and history. Several people can edit it at once: a conflicting change
// is shown next to yours, and nothing is lost.
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { toast } from "sonner";
import { moveQuery } from "../api/ask";
import { api, ProblemError, type Schemas, values } from "../api/client";
import { LinksToSet } from "../links/AcceptedLinkFile";
import { DateField } from "../shared/DateField";
import { EvidenceMark } from "../shared/EvidenceMark";
import { count, day, NONE, path } from "../shared/format";
import { Button, Choice, Failed, MainButton, Notice, Words } from "../shared/parts";
import { useAct } from "../shared/useAct";
import { History } from "./History";
import { Outcome } from "./Outcome";
import { ALL_STATES, EFFORTS, type Move } from "./words";

type Fields = Pick<
  Move,
  "kind" | "effort" | "state" | "note" | "who" | "due" | "made_on" | "recrawl_on" | "new_title" | "new_description"
>;
const WANTED = [
  ["new_title", "new title"],
  ["new_description", "new description"],
] as const;
const NAMES = [
  "kind",
  "effort",
  "state",
  "note",
  "who",
  "due",
  "made_on",
  "recrawl_on",
  ...WANTED.map(([name]) => name),
] as const;
const fieldsOf = (move: Move) => Object.fromEntries(NAMES.map((name) => [name, move[name]])) as Fields;
// `hold`: keep the move selected, wherever its changes put it in the list.
type Props = { site: Schemas["SiteShown"]; row: string; gone: () => void; hold: () => void };

export function MoveSheet({ site, row, gone, hold }: Props) {
  const found = useQuery(moveQuery(site.slug, row));
  if (found.error) return <Failed error={found.error} retry={() => found.refetch()} />;
  const move = found.data;
  if (!move) return <Notice title="Opening the move">One moment.</Notice>;
  if (move.dropped) return <Dropped site={site} move={move} />;
  return (
    <article aria-label="Move" data-testid="move" className="px-5 py-3">
      <h2 className="text-xl leading-6 first-letter:uppercase">{move.kind_words}</h2>
      <p className="break-words">
        {move.query && <span className="font-medium">“{move.query}” </span>}
        {move.page && (
          <Link to="/$site/pages" params={{ site: site.slug }} search={{ row: String(move.page_id) }} className="link">
            {path(move.page)}
          </Link>
        )}
      </p>
      <div className="mt-2 space-y-1 font-serif text-lead">
        {move.reason && <p>{move.reason}</p>}
        {move.decided && <p>{move.decided}</p>}
        {move.crawled && <p>{move.crawled}</p>}
        {move.links.length > 0 && <LinksToSet links={move.links} />}
        {move.gain !== null && (
          <p>
            Expected on {day(move.made_at.slice(0, 10))}: about {count(move.gain)} clicks a month, by a cautious
            estimate {count(move.gain_cautious)} <EvidenceMark grade={move.evidence} />
          </p>
        )}
      </div>
      {site.may_change ? (
        <Form site={site} move={move} gone={gone} hold={hold} refresh={() => found.refetch()} />
      ) : (
        <Read move={move} />
      )}
      <Outcome site={site} move={move} />
      <History site={site} move={move} />
    </article>
  );
}

function Read({ move }: { move: Move }) {
  return (
    <dl className="mt-3 grid grid-cols-[6rem_1fr] border-rule border-t pt-2">
      {[
        ["state", move.state],
        ["effort", EFFORTS[move.effort]],
        ["who", move.who ?? NONE],
        ["due", move.due ? day(move.due) : NONE],
        ["done on", move.made_on ? day(move.made_on) : NONE],
        ...(move.recrawl_on ? [["recrawl requested on", day(move.recrawl_on)]] : []),
        ["note", move.note || NONE],
        ...WANTED.filter(([name]) => move[name]).map(([name, words]) => [words, move[name]] as const),
      ].map(([name, value]) => (
        <div key={name} className="contents">
          <dt className="text-faint">{name}</dt>
          <dd className="whitespace-pre-wrap">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

type Saved = { seen: number; draft: Partial<Fields> };

/** Unsaved changes and the version they are based on stay in the browser, so a phone call or a reload loses nothing, and
 * others' changes are not overwritten. */
function useDraft(slug: string, move: Move) {
  const key = `zugzwang-move-draft-${slug}-${move.id}`;
  const [kept, setSaved] = useState<Saved>(
    () => JSON.parse(sessionStorage.getItem(key) ?? "null") ?? { seen: move.version, draft: {} },
  );
  const dirty = Object.keys(kept.draft).length > 0;
  const seen = dirty ? kept.seen : move.version;
  useEffect(() => {
    if (dirty) sessionStorage.setItem(key, JSON.stringify(kept));
    else sessionStorage.removeItem(key);
  }, [key, kept, dirty]);
  const setDraft = (change: (stored: Partial<Fields>) => Partial<Fields>) =>
    setSaved((stored) => ({
      seen: Object.keys(stored.draft).length ? stored.seen : move.version,
      draft: change(stored.draft),
    }));
  return { draft: kept.draft, setDraft, seen, dirty };
}

function Dropped({ site, move }: { site: Schemas["SiteShown"]; move: Move }) {
  const act = useAct();
  const params = { path: { slug: site.slug, move_id: move.id } };
  const back = () => act(() => api.POST("/api/sites/{slug}/moves/{move_id}/restore", { params }));
  return (
    <Notice title="The move was deleted" action={site.may_change && <Button onClick={back}>Restore</Button>}>
      {move.kind_words}
      {move.query && `, “${move.query}”`}
      {move.page && `, ${path(move.page)}`}. It is in no list; its notes are saved.
    </Notice>
  );
}

type FormProps = { site: Schemas["SiteShown"]; move: Move; gone: () => void; hold: () => void; refresh: () => void };

function Form({ site, move, gone, hold, refresh }: FormProps) {
  const act = useAct();
  const { draft, setDraft, seen, dirty } = useDraft(site.slug, move);
  const { save, busy, theirs, setTheirs } = useSaving(site.slug, move, setDraft);
  const params = { path: { slug: site.slug, move_id: move.id } };

  const now = { ...fieldsOf(move), ...draft };
  const meanwhile = dirty ? move.history.filter((one) => one.version > seen) : [];
  const set = (part: Partial<Fields>) => {
    hold();
    setDraft((stored) => {
      const next = { ...stored, ...part };
      for (const name of NAMES) if (name in next && next[name] === move[name]) delete next[name];
      return next;
    });
  };

  const drop = () =>
    act(
      () =>
        api.POST("/api/sites/{slug}/moves/dropped", {
          params: { path: { slug: site.slug } },
          body: { ids: [move.id] },
        }),
      () => {
        gone();
        toast("The move is deleted.", {
          action: {
            label: "Restore",
            onClick: () => act(() => api.POST("/api/sites/{slug}/moves/{move_id}/restore", { params })),
          },
        });
      },
    );

  return (
    <form
      className="mt-3 space-y-3 border-rule border-t pt-2"
      onSubmit={(event) => {
        event.preventDefault();
        save(draft, seen);
      }}
    >
      <MoveFields move={move} now={now} draft={draft} set={set} />
      {meanwhile.length > 0 && !theirs && (
        <p role="status" className="text-ochre">
          Meanwhile {[...new Set(meanwhile.map((one) => one.by ?? "someone"))].join(" and ")} changed{" "}
          {[...new Set(meanwhile.map((one) => one.words))].join(" and ")}. What you typed is saved.
        </p>
      )}
      {theirs && (
        <Meeting
          mine={now}
          theirs={theirs}
          draft={draft}
          take={(fields) => save(fields, theirs.version)}
          leave={() => {
            setDraft(() => ({}));
            setTheirs(null);
            refresh();
          }}
        />
      )}
      <div className="flex items-baseline gap-x-4">
        <MainButton type="submit" disabled={!dirty || busy || theirs !== null}>
          Save
        </MainButton>
        {dirty && !theirs && (
          <Button plain onClick={() => setDraft(() => ({}))}>
            Undo my change
          </Button>
        )}
        <Button plain className="ml-auto text-faint" onClick={drop}>
          Delete the move
        </Button>
      </div>
    </form>
  );
}

/** Save changes of a move; a conflict leaves both versions to choose from. */
function useSaving(slug: string, move: Move, setDraft: ReturnType<typeof useDraft>["setDraft"]) {
  const act = useAct();
  const [theirs, setTheirs] = useState<Move | null>(null);
  const [busy, setBusy] = useState(false);
  const params = { path: { slug, move_id: move.id } };

  async function save(fields: Partial<Fields>, version: number) {
    setBusy(true);
    try {
      const before = fieldsOf(move);
      const saved = values(
        await api.PATCH("/api/sites/{slug}/moves/{move_id}", { params, body: { seen: version, ...fields } }),
      );
      setDraft(() => ({}));
      setTheirs(null);
      const undo = Object.fromEntries(Object.keys(fields).map((name) => [name, before[name as keyof Fields]]));
      await act(
        async () => ({ data: saved }),
        () =>
          toast("Saved.", {
            action: {
              label: "Undo",
              onClick: () =>
                act(() =>
                  api.PATCH("/api/sites/{slug}/moves/{move_id}", { params, body: { seen: saved.version, ...undo } }),
                ),
            },
          }),
      );
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      if (error.problem.status !== 409) toast.error(`${error.problem.detail} ${error.problem.remedy}`);
      else setTheirs(values(await api.GET("/api/sites/{slug}/moves/{move_id}", { params })));
    }
    setBusy(false);
  }

  return { save, busy, theirs, setTheirs };
}

type FieldsProps = { move: Move; now: Fields; draft: Partial<Fields>; set: (part: Partial<Fields>) => void };

function MoveFields({ move, now, draft, set }: FieldsProps) {
  return (
    <>
      <div className="grid grid-cols-2 gap-3">
        <Choice
          label="state"
          value={now.state}
          onChange={(event) => set({ state: event.target.value as Fields["state"] })}
        >
          {ALL_STATES.map((state) => (
            <option key={state} disabled={state === "measured" && move.outcome === null}>
              {state}
            </option>
          ))}
        </Choice>
        <DateField
          label="done on"
          value={now.made_on ?? ""}
          onDay={(made_on) => set({ made_on: made_on || null, ...(made_on && { state: "done" }) })}
        />
      </div>
      <div className="grid grid-cols-3 gap-3">
        <Choice
          label="effort"
          value={now.effort}
          onChange={(event) => set({ effort: event.target.value as Fields["effort"] })}
        >
          {Object.entries(EFFORTS).map(([effort, words]) => (
            <option key={effort} value={effort}>
              {words}
            </option>
          ))}
        </Choice>
        <Choice label="who" value={now.who ?? ""} onChange={(event) => set({ who: event.target.value || null })}>
          <option value="">no one yet</option>
          {move.people.map((person) => (
            <option key={person}>{person}</option>
          ))}
        </Choice>
        <DateField label="due" value={now.due ?? ""} onDay={(due) => set({ due: due || null })} />
      </div>
      {now.made_on && (
        <DateField
          label="recrawl requested on"
          value={now.recrawl_on ?? ""}
          onDay={(recrawl_on) => set({ recrawl_on: recrawl_on || null })}
        />
      )}
      {WANTED.map(
        ([name, words]) =>
          (move[name] || draft[name] !== undefined) && (
            <Words
              key={name}
              label={words}
              rows={2}
              value={now[name]}
              onChange={(event) => set({ [name]: event.target.value })}
            />
          ),
      )}
      <Words label="note" rows={4} value={now.note} onChange={(event) => set({ note: event.target.value })} />
    </>
  );
}

type MeetingProps = {
  mine: Fields;
  theirs: Fields;
  draft: Partial<Fields>;
  take: (fields: Partial<Fields>) => void;
  leave: () => void;
};

/** Two people changed the same field: show both, and let the person choose. */
function Meeting({ mine, theirs, draft, take, leave }: MeetingProps) {
  const met = NAMES.filter((name) => name in draft && mine[name] !== theirs[name]);
  const both = met.includes("note") && mine.note && theirs.note;
  return (
    <div role="alert" className="space-y-2 border border-ochre p-3">
      <p className="font-medium">
        Someone else edited this. Choose which version to keep; nothing is lost until you do.
      </p>
      {met.map((name) => (
        <div key={name} className="grid grid-cols-2 gap-3">
          <div>
            <p className="text-faint text-xs">other version: {name.replace("_", " ")}</p>
            <p className="whitespace-pre-wrap">{theirs[name] || NONE}</p>
          </div>
          <div>
            <p className="text-faint text-xs">yours: {name.replace("_", " ")}</p>
            <p className="whitespace-pre-wrap">{mine[name] || NONE}</p>
          </div>
        </div>
      ))}
      <div className="flex flex-wrap gap-2">
        <Button onClick={() => take(draft)}>Keep yours</Button>
        {both && (
          <Button onClick={() => take({ ...draft, note: `${theirs.note}\n\n${mine.note}` })}>
            Both notes, the other first
          </Button>
        )}
        <Button onClick={leave}>Keep the other version</Button>
      </div>
    </div>
  );
}
