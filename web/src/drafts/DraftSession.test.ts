import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { ProblemError } from "../api/client";
import {
  AGAIN_MS,
  BEAT_MS,
  type Doubts,
  type Draft,
  DraftSession,
  PAUSE_MS,
  type Server,
  type Words,
} from "./DraftSession";

const ME = "window-1";
const words = (text: string): Words => ({ title: "Carts", description: "", text });
const draft = (text: string, version = 1, writer_window: string | null = ME): Draft =>
  ({ ...words(text), version, writer: writer_window && "ann", writer_window, state: "open", dropped: false }) as Draft;
const refused = (status: number) =>
  new ProblemError({ type: "", title: "", status, detail: "Refused.", remedy: "Copy it.", fields: [], problems: [] });

/** A server with one draft, and a shelf like a browser's. */
function setUp(first = draft("a"), kept?: string) {
  const shelf = new Map<string, string>(kept ? [["draft", kept]] : []);
  const server = {
    save: vi.fn(
      async (sent: Words): Promise<Doubts> => ({ draft: draft(sent.text, 2), text: null }) as unknown as Doubts,
    ),
    write: vi.fn(async (): Promise<Draft> => first),
    leave: vi.fn(async () => undefined),
    hold: vi.fn(async () => undefined),
  } satisfies Server;
  const session = new DraftSession(ME, "draft", true, server, {
    getItem: (key) => shelf.get(key) ?? null,
    setItem: (key, value) => shelf.set(key, value),
    removeItem: (key) => shelf.delete(key),
  });
  session.receive(first);
  return { session, server, shelf };
}
const pause = () => vi.advanceTimersByTimeAsync(PAUSE_MS);

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

describe("a draft in one window", () => {
  it("keeps typed text until the server has it, one request for many letters", async () => {
    const { session, server, shelf } = setUp();
    for (const text of ["ab", "abc", "abcd"]) session.change({ text });
    expect(session.view.state).toBe("unsaved");
    expect(JSON.parse(shelf.get("draft") ?? "").words.text).toBe("abcd");
    await pause();
    expect(server.save).toHaveBeenCalledTimes(1);
    expect(server.save).toHaveBeenCalledWith(words("abcd"), { version: 1, words: words("a") });
    expect(session.view.state).toBe("saved");
    expect(shelf.has("draft")).toBe(false);
  });

  it("saves what was typed during a slow save, on top of what was sent", async () => {
    const { session, server } = setUp();
    let answer: (saved: Doubts) => void = () => {};
    server.save.mockImplementationOnce(() => new Promise((done) => (answer = done)));
    session.change({ text: "ab" });
    await pause();
    session.change({ text: "abc" });
    answer({ draft: draft("ab", 2), text: null } as unknown as Doubts);
    await pause();
    expect(server.save).toHaveBeenLastCalledWith(words("abc"), { version: 2, words: words("ab") });
    expect(session.view.state).toBe("saved");
  });

  it("shows what the server merged, and hands it to the editor", async () => {
    const { session, server } = setUp();
    server.save.mockResolvedValueOnce({ draft: draft("ab and theirs", 3), text: null } as unknown as Doubts);
    session.change({ text: "ab" });
    const before = session.view.taken;
    await pause();
    expect(session.view.words?.text).toBe("ab and theirs");
    expect(session.view.taken).toBe(before + 1);
  });

  it("tries again after a lost connection, and says why it was refused", async () => {
    const { session, server } = setUp();
    server.save.mockRejectedValueOnce(refused(0));
    session.change({ text: "ab" });
    await pause();
    expect(session.view).toMatchObject({ state: "offline", problem: null });
    await vi.advanceTimersByTimeAsync(AGAIN_MS);
    expect(session.view.state).toBe("saved");
    server.save.mockRejectedValueOnce(refused(422));
    session.change({ text: "abc" });
    await pause();
    expect(session.view).toMatchObject({ state: "refused", problem: "Refused. Copy it." });
  });

  it("keeps text to itself while someone else writes, and sends it when they leave", async () => {
    const { session, server } = setUp(draft("a", 1, "window-2"));
    session.change({ text: "ab" });
    await pause();
    expect(session.view.state).toBe("local");
    expect(server.save).not.toHaveBeenCalled();
    server.write.mockResolvedValue(draft("a", 1));
    session.receive(draft("a", 1, null));
    await pause();
    expect(server.write).toHaveBeenCalled();
    expect(server.save).toHaveBeenCalledTimes(1);
    expect(session.view.state).toBe("saved");
  });

  it("asks about a conflict, and saves the choice on the server's text", async () => {
    const { session, server } = setUp();
    server.save.mockResolvedValueOnce({ draft: draft("theirs", 4), text: "both" } as unknown as Doubts);
    session.change({ text: "mine" });
    await pause();
    expect(session.view.doubts?.text).toBe("both");
    session.choose(words("chosen"));
    await pause();
    expect(server.save).toHaveBeenLastCalledWith(words("chosen"), { version: 4, words: words("theirs") });
    expect(session.view).toMatchObject({ doubts: null, state: "saved" });
  });

  it("takes up what a closed window left, and forgets it when it is let go", async () => {
    const kept = JSON.stringify({ base: { version: 1, words: words("a") }, words: words("left"), at: "" });
    const { session, shelf } = setUp(draft("a"), kept);
    expect(session.view).toMatchObject({ words: words("left"), state: "unsaved" });
    session.letGo();
    expect(session.view).toMatchObject({ words: words("a"), state: "saved" });
    expect(shelf.has("draft")).toBe(false);
  });

  it("follows others while nothing here is unsaved, and never overwrites what is typed", async () => {
    const { session } = setUp(draft("a", 1, "window-2"));
    session.receive(draft("theirs", 2, "window-2"));
    expect(session.view.words?.text).toBe("theirs");
    session.change({ text: "mine" });
    session.receive(draft("theirs again", 3, "window-2"));
    expect(session.view.words?.text).toBe("mine");
  });

  it("says at intervals that it writes, saves when it closes, and leaves", async () => {
    const { session, server } = setUp();
    await vi.advanceTimersByTimeAsync(BEAT_MS);
    expect(server.write).toHaveBeenCalledTimes(1);
    session.change({ text: "last" });
    session.stop();
    await vi.advanceTimersByTimeAsync(0);
    expect(server.save).toHaveBeenCalledTimes(1);
    expect(server.leave).toHaveBeenCalledTimes(1);
    await vi.advanceTimersByTimeAsync(2 * BEAT_MS);
    expect(server.write).toHaveBeenCalledTimes(1);
  });
});
