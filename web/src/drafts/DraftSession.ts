// A draft as one window sees it: its text here, the text on the server, and who writes. Typed text is kept in the browser until
// the server has it, and merged there with others' changes; nothing is lost when a connection drops. Knows neither React nor HTTP.
import { ProblemError, type Schemas } from "../api/client";

export type Draft = Schemas["DraftShown"];
export type Words = Pick<Draft, "title" | "description" | "text">;
export type Doubts = Schemas["DraftSaving"];
export type SaveState = "saved" | "unsaved" | "saving" | "offline" | "local" | "refused";
export type Base = { version: number; words: Words };
type Stored = { base: Base; words: Words; at: string };

/** What a session needs of the server. Each call throws a ProblemError when it is refused or cannot be reached. */
export type Server = {
  save: (words: Words, base: Base) => Promise<Doubts>;
  write: (take: boolean) => Promise<Draft>;
  leave: () => Promise<unknown>;
  /** Keeps what the server has just returned: a request that started earlier would bring back the old state. */
  hold: (draft: Draft) => Promise<void>;
};
type Shelf = Pick<Storage, "getItem" | "setItem" | "removeItem">;

/** What a screen shows. `taken` rises when the text changes outside the editor, which then takes it over. */
export type View = {
  words: Words | null;
  state: SaveState;
  problem: string | null;
  doubts: Doubts | null;
  taken: number;
};

export const PAUSE_MS = 900;
export const AGAIN_MS = 5_000;
export const BEAT_MS = 15_000;

const wordsOf = ({ title, description, text }: Words): Words => ({ title, description, text });
const same = (one: Words, other: Words) =>
  one.title === other.title && one.description === other.description && one.text === other.text;
const baseOf = (draft: Draft): Base => ({ version: draft.version, words: wordsOf(draft) });

export class DraftSession {
  view: View = { words: null, state: "saved", problem: null, doubts: null, taken: 0 };
  private draft: Draft | null = null;
  private base: Base | null = null;
  private dirty = false;
  private busy = false;
  private awaited = "";
  private closed = false;
  private pause: ReturnType<typeof setTimeout> | undefined;
  private beat: ReturnType<typeof setInterval> | undefined;
  private readonly listeners = new Set<() => void>();

  constructor(
    private readonly me: string,
    private readonly key: string,
    private readonly mayChange: boolean,
    private readonly server: Server,
    private readonly shelf: Shelf,
  ) {}

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  get writes(): boolean {
    return this.draft?.writer_window === this.me;
  }
  /** Who writes in another window. */
  get other(): string | null {
    return this.draft?.writer != null && !this.writes ? this.draft.writer : null;
  }

  /** The draft as the server has it. Its text is used where nothing here is unsaved. */
  receive(draft: Draft): void {
    this.draft = draft;
    if (!this.base) this.begin(draft);
    else if (!this.dirty && !this.busy && draft.version > this.base.version) {
      const others = !same(this.words, wordsOf(draft)) && !this.writes;
      this.adopt(draft, others);
    }
    this.settle();
  }

  private begin(draft: Draft): void {
    const stored: Stored | null = JSON.parse(this.shelf.getItem(this.key) ?? "null");
    this.dirty = stored !== null && !same(stored.words, wordsOf(draft));
    this.base = stored && this.dirty ? stored.base : baseOf(draft);
    this.show(stored && this.dirty ? stored.words : wordsOf(draft), { state: this.dirty ? "unsaved" : "saved" });
  }

  change(part: Partial<Words>): void {
    if (!this.base) return;
    this.dirty = true;
    this.set({ words: { ...this.words, ...part }, state: this.view.state === "offline" ? "offline" : "unsaved" });
    const stored: Stored = { base: this.base, words: this.words, at: new Date().toISOString() };
    this.shelf.setItem(this.key, JSON.stringify(stored));
    this.saveSoon();
    this.settle();
  }

  async save(): Promise<void> {
    if (!this.base || !this.dirty || this.busy) return;
    if (this.other) return this.set({ state: "local" }); // kept here until this window writes again
    const [sent, base] = [this.words, this.base];
    this.busy = true;
    this.set({ state: "saving" });
    try {
      const answer = await this.server.save(sent, base);
      await this.server.hold(answer.draft);
      this.busy = false;
      this.saved(answer, sent, base);
    } catch (error) {
      this.busy = false;
      this.failed(error);
    }
    this.settle();
  }

  private saved(answer: Doubts, sent: Words, base: Base): void {
    if (answer.text) {
      this.set({ doubts: answer, state: "local" });
      return;
    }
    const merged = answer.draft.version > base.version + 1;
    const still = same(this.words, sent);
    // Typed while others' changes arrived: the next save merges them, on top of what was sent.
    if (merged && !still) this.base = { version: base.version, words: sent };
    else this.base = { version: answer.draft.version, words: merged ? wordsOf(answer.draft) : sent };
    this.dirty = !still;
    if (merged && still) this.show(wordsOf(answer.draft), {});
    this.set({ problem: null, state: still ? "saved" : "unsaved" });
    if (still) this.shelf.removeItem(this.key);
    else void this.save(); // typed meanwhile
  }

  private failed(error: unknown): void {
    if (!(error instanceof ProblemError)) throw error;
    const { status, detail, remedy } = error.problem;
    const away = status === 0 || status >= 500;
    this.set({
      problem: away ? null : `${detail} ${remedy}`,
      state: away ? "offline" : status === 409 ? "local" : "refused",
    });
    if (away) setTimeout(() => this.save(), AGAIN_MS);
  }

  /** Become the writer; `take`: even where someone else is. Returns whether this window writes now. */
  async write(take = false): Promise<boolean> {
    try {
      const draft = await this.server.write(take);
      await this.server.hold(draft);
      this.receive(draft);
      if (this.dirty) void this.save();
      return this.writes;
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      return false;
    }
  }

  /** Resolve a conflict, and save the result. */
  choose(chosen: Words): void {
    if (!this.view.doubts) return;
    this.base = baseOf(this.view.doubts.draft);
    this.dirty = true;
    this.show(chosen, { doubts: null });
    void this.save();
  }

  /** Discard unsaved changes here in favour of the server's. */
  letGo(): void {
    if (!this.draft) return;
    this.shelf.removeItem(this.key);
    this.adopt(this.draft, true);
    this.set({ doubts: null, problem: null, state: "saved" });
  }

  /** The draft after a version was restored. */
  async restored(draft: Draft): Promise<void> {
    await this.server.hold(draft);
    this.draft = draft;
    this.adopt(draft, true);
  }

  start(): void {
    this.closed = false;
    this.settle();
  }

  /** The window closes, or shows another draft. */
  stop(): void {
    this.closed = true;
    clearTimeout(this.pause);
    clearInterval(this.beat);
    this.beat = undefined;
    this.save().finally(() => this.server.leave().catch(() => {}));
  }

  private get words(): Words {
    return this.view.words ?? { title: "", description: "", text: "" };
  }

  private adopt(draft: Draft, shown: boolean): void {
    this.base = baseOf(draft);
    this.dirty = false;
    if (shown) this.show(wordsOf(draft), {});
    else this.set({ words: wordsOf(draft) });
  }

  private show(words: Words, part: Partial<View>): void {
    this.set({ ...part, words, taken: this.view.taken + 1 });
  }

  private set(part: Partial<View>): void {
    this.view = { ...this.view, ...part };
    for (const listener of this.listeners) listener();
  }

  private saveSoon(): void {
    clearTimeout(this.pause);
    this.pause = setTimeout(() => this.save(), PAUSE_MS);
  }

  /** Text that waited here is sent as soon as no one else writes; whoever writes says so at intervals. */
  private settle(): void {
    if (this.closed) return;
    if (this.writes && this.beat === undefined) this.beat = setInterval(() => this.write(), BEAT_MS);
    if (!this.writes && this.beat !== undefined) {
      clearInterval(this.beat);
      this.beat = undefined;
    }
    const { state, doubts } = this.view;
    const open = this.draft?.state === "open" && this.mayChange;
    const waits = open && !doubts && !this.other && (state === "unsaved" || state === "local");
    const awaited = `${waits} ${this.writes}`;
    if (awaited === this.awaited) return;
    this.awaited = awaited;
    if (waits && this.writes) this.saveSoon();
    else if (waits) void this.write();
  }
}
