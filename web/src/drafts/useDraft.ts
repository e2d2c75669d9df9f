// A draft as one window sees it: its text here, the text on the server, and the writer. Typed text is stored in the browser
// until the server has it, and merged there with others' changes; nothing is lost when a connection drops.
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { ask } from "../api/ask";
import { api, ProblemError, type Schemas, values } from "../api/client";

export type Draft = Schemas["DraftShown"];
export type Words = Pick<Draft, "title" | "description" | "text">;
export type Doubts = Schemas["DraftSaving"];
export type SaveState = "saved" | "unsaved" | "saving" | "offline" | "local" | "refused";
type Base = { version: number; words: Words };
type Stored = { base: Base; words: Words; at: string };

const PAUSE_MS = 900;
const AGAIN_MS = 5_000;
const LOOK_MS = 2_000;
const BEAT_MS = 15_000;

const wordsOf = ({ title, description, text }: Words): Words => ({ title, description, text });
const same = (one: Words, other: Words) =>
  one.title === other.title && one.description === other.description && one.text === other.text;

/** Identifies this window among those of the same person. */
function windowName(): string {
  const stored = sessionStorage.getItem("zugzwang-window");
  if (stored) return stored;
  const made = crypto.randomUUID?.() ?? String(Math.random()).slice(2).padEnd(8, "0");
  sessionStorage.setItem("zugzwang-window", made);
  return made;
}

export const draftQuery = (slug: string, id: number) =>
  ask.queryOptions("get", "/api/sites/{slug}/drafts/{draft_id}", { params: { path: { slug, draft_id: id } } });

export function useDraft(slug: string, id: number, mayChange: boolean) {
  const queryClient = useQueryClient();
  const queryKey = useMemo(() => draftQuery(slug, id).queryKey, [slug, id]);
  const found = ask.useQuery(
    "get",
    "/api/sites/{slug}/drafts/{draft_id}",
    { params: { path: { slug, draft_id: id } } },
    { staleTime: 0, refetchInterval: LOOK_MS },
  );
  const draft = found.data;
  const params = { path: { slug, draft_id: id } };
  const key = `zugzwang-draft-${slug}-${id}`;
  const me = useRef(windowName());
  const [words, setWords] = useState<Words | null>(null);
  const [state, setState] = useState<SaveState>("saved");
  const [problem, setProblem] = useState<string | null>(null);
  const [doubts, setDoubts] = useState<Doubts | null>(null);
  // Raised when the text changes outside the editor, which then takes it over.
  const [taken, setTaken] = useState(0);
  const stored = useRef<{ words: Words; base: Base; dirty: boolean; busy: boolean }>(null);
  const [turns, setTurns] = useState(0); // raised to save once more
  const writes = draft?.writer_window === me.current;
  const other = draft?.writer != null && !writes ? draft.writer : null;
  const someoneElse = useRef(false);
  someoneElse.current = other !== null;

  const show = useCallback((next: Words) => {
    setWords(next);
    setTaken((number) => number + 1);
  }, []);

  /** Keep what the server has just returned; a request that started earlier would bring back the old state. */
  const hold = useCallback(
    async (answer: Draft) => {
      await queryClient.cancelQueries({ queryKey });
      queryClient.setQueryData(queryKey, answer);
    },
    [queryClient, queryKey],
  );

  // The server's text: used where nothing here is unsaved.
  useEffect(() => {
    if (!draft) return;
    const now = stored.current;
    if (!now) {
      const saved: Stored | null = JSON.parse(localStorage.getItem(key) ?? "null");
      const dirty = saved !== null && !same(saved.words, wordsOf(draft));
      const base = dirty ? saved.base : { version: draft.version, words: wordsOf(draft) };
      stored.current = { words: dirty ? saved.words : wordsOf(draft), base, dirty, busy: false };
      show(stored.current.words);
      if (dirty) setState("unsaved");
    } else if (!now.dirty && !now.busy && draft.version > now.base.version) {
      const others = !same(now.words, wordsOf(draft)) && draft.writer_window !== me.current;
      stored.current = {
        words: wordsOf(draft),
        base: { version: draft.version, words: wordsOf(draft) },
        dirty: false,
        busy: false,
      };
      if (others) show(wordsOf(draft));
    }
  }, [draft, key, show]);

  const save = useCallback(async () => {
    const now = stored.current;
    if (!now?.dirty || now.busy) return;
    if (someoneElse.current) {
      setState("local"); // kept here until this window writes again
      return;
    }
    const sent = now.words;
    const { base } = now;
    now.busy = true;
    setState("saving");
    try {
      const made = values(
        await api.PUT("/api/sites/{slug}/drafts/{draft_id}", {
          params: { path: { slug, draft_id: id } },
          body: { ...sent, window: me.current, seen: base.version, base: base.words },
        }),
      );
      await hold(made.draft);
      now.busy = false;
      if (made.text) {
        setDoubts(made);
        setState("local");
        return;
      }
      const merged = made.draft.version > base.version + 1;
      const still = same(now.words, sent);
      if (merged && still) {
        now.words = wordsOf(made.draft);
        show(now.words);
      }
      // Typed while others' changes arrived: the next save merges them, on top of what was sent.
      now.base =
        merged && !still
          ? { version: base.version, words: sent }
          : { version: made.draft.version, words: merged ? wordsOf(made.draft) : sent };
      now.dirty = !still;
      setProblem(null);
      setState(still ? "saved" : "unsaved");
      if (still) localStorage.removeItem(key);
      else setTurns((number) => number + 1); // typed meanwhile
    } catch (error) {
      now.busy = false;
      if (!(error instanceof ProblemError)) throw error;
      const away = error.problem.status === 0 || error.problem.status >= 500;
      setProblem(away ? null : `${error.problem.detail} ${error.problem.remedy}`);
      setState(away ? "offline" : error.problem.status === 409 ? "local" : "refused");
      if (away) setTimeout(() => setTurns((number) => number + 1), AGAIN_MS);
    }
  }, [slug, id, key, hold, show]);

  useEffect(() => {
    if (turns) save();
  }, [turns, save]);

  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const saveSoon = useCallback(() => {
    clearTimeout(timer.current);
    timer.current = setTimeout(save, PAUSE_MS);
  }, [save]);
  const change = useCallback(
    (part: Partial<Words>) => {
      const now = stored.current;
      if (!now) return;
      now.words = { ...now.words, ...part };
      now.dirty = true;
      setWords(now.words);
      setState((before) => (before === "offline" ? before : "unsaved"));
      const saved: Stored = { base: now.base, words: now.words, at: new Date().toISOString() };
      localStorage.setItem(key, JSON.stringify(saved));
      saveSoon();
    },
    [key, saveSoon],
  );

  /** Become the writer; `take`: even where someone else is. */
  const write = useCallback(
    async (take = false) => {
      try {
        const answer = values(
          await api.POST("/api/sites/{slug}/drafts/{draft_id}/writer", {
            params: { path: { slug, draft_id: id } },
            body: { window: me.current, take },
          }),
        );
        await hold(answer);
        someoneElse.current = answer.writer_window !== me.current;
        if (stored.current?.dirty) save();
        return !someoneElse.current;
      } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
        return false;
      }
    },
    [slug, id, hold, save],
  );

  // Text that waited in this browser is sent as soon as no one else writes.
  const waits = (state === "unsaved" || state === "local") && !doubts && !other && mayChange && draft?.state === "open";
  useEffect(() => {
    if (!waits) return;
    if (writes) saveSoon();
    else write();
  }, [waits, writes, saveSoon, write]);

  useEffect(() => {
    if (!writes) return;
    const beat = setInterval(() => write(), BEAT_MS);
    return () => clearInterval(beat);
  }, [writes, write]);

  useEffect(() => {
    const body = { window: me.current, take: false };
    const path = { slug, draft_id: id };
    return () => {
      clearTimeout(timer.current);
      save().finally(() =>
        api.POST("/api/sites/{slug}/drafts/{draft_id}/writer/gone", { params: { path }, body }).catch(() => {}),
      );
    };
  }, [slug, id, save]);

  /** Resolve a conflict, and save the result. */
  function choose(chosen: Words) {
    if (!doubts || !stored.current) return;
    stored.current.base = { version: doubts.draft.version, words: wordsOf(doubts.draft) };
    stored.current.words = chosen;
    stored.current.dirty = true;
    setDoubts(null);
    show(chosen);
    save();
  }

  /** Discard unsaved changes here in favour of the server's. */
  function letGo() {
    if (!draft) return;
    stored.current = {
      words: wordsOf(draft),
      base: { version: draft.version, words: wordsOf(draft) },
      dirty: false,
      busy: false,
    };
    localStorage.removeItem(key);
    setDoubts(null);
    setProblem(null);
    setState("saved");
    show(stored.current.words);
  }

  async function putBack(version: number) {
    const answer = values(
      await api.POST("/api/sites/{slug}/drafts/{draft_id}/versions", { params, body: { window: me.current, version } }),
    );
    await hold(answer);
    stored.current = {
      words: wordsOf(answer),
      base: { version: answer.version, words: wordsOf(answer) },
      dirty: false,
      busy: false,
    };
    show(stored.current.words);
  }

  const open = draft?.state === "open" && !draft.dropped;
  return {
    found,
    draft,
    words,
    taken,
    state,
    problem,
    doubts,
    other,
    writes,
    mayWrite: Boolean(mayChange && open && !other),
    change,
    save,
    write,
    choose,
    letGo,
    putBack,
  };
}
