// One draft: its text in the middle; next to it the check, the brief, help and versions.
import { useQuery } from "@tanstack/react-query";
import { getRouteApi, Link } from "@tanstack/react-router";
import { DropdownMenu } from "radix-ui";
import { lazy, Suspense, useEffect, useMemo, useRef, useState } from "react";
import { toast } from "sonner";
import { briefQuery } from "../api/ask";
import { api, type Schemas } from "../api/client";
import { useSite } from "../frame/useSite";
import { download } from "../shared/export";
import { day, path } from "../shared/format";
import { Button, Failed, Notice } from "../shared/parts";
import { Snippet } from "../shared/Snippet";
import { SplitPane } from "../shared/SplitPane";
import { useAct } from "../shared/useAct";
import { Views } from "../shared/Views";
import { BriefPanel } from "./BriefPanel";
import { CheckPanel } from "./CheckPanel";
import { DoneDialog } from "./DoneDialog";
import { Doubts } from "./Doubts";
import type { Draft, SaveState } from "./DraftSession";
import type { Handle } from "./Editor";
import { HelpPanel, type Wish } from "./HelpPanel";
import { useCheck } from "./useCheck";
import { useDraft } from "./useDraft";
import { VersionsPanel } from "./VersionsPanel";

const Editor = lazy(() => import("./Editor"));
const route = getRouteApi("/reader/$site/draft");
const PANELS = { check: "Check", snippet: "Snippet", brief: "Brief", help: "Proposals", versions: "Versions" } as const;
type Panel = keyof typeof PANELS;
const SITE_DEFAULTS = {};

export function DraftPlace() {
  const { site } = useSite();
  const { draft } = route.useSearch();
  if (!site) return null;
  if (draft === undefined) return <Notice title="No draft chosen">Choose one in Drafts.</Notice>;
  return <Opened key={draft} site={site} id={draft} />;
}

function Opened({ site, id }: { site: Schemas["SiteShown"]; id: number }) {
  const stored = useDraft(site.slug, id, site.may_change);
  const { draft, words } = stored;
  useEffect(() => {
    if (draft) document.title = `${draft.name} · ${site.name} · Zugzwang`;
  }, [draft, site.name]);
  // Once open it stays open, whatever happens to the connection.
  if (stored.found.error && !draft) return <Failed error={stored.found.error} retry={() => stored.found.refetch()} />;
  if (!draft || !words) return <Notice title="Opening the draft">One moment.</Notice>;
  return <Desk site={site} stored={stored} draft={draft} words={words} />;
}

type Loaded = ReturnType<typeof useDraft>;
type DeskProps = { site: Schemas["SiteShown"]; stored: Loaded; draft: Draft; words: NonNullable<Loaded["words"]> };

function Desk({ site, stored, draft, words }: DeskProps) {
  const { slug } = site;
  const [panel, setPanel] = useState<Panel>("check");
  const [wish, setWish] = useState<Wish>({ task: "outline", term: "" });
  const [later, setLater] = useState(false);
  const check = useCheck(slug, draft.id, words, SITE_DEFAULTS);
  const brief = useQuery(briefQuery(slug, SITE_DEFAULTS, draft.query_id, draft.page ?? ""));
  const editor = useRef<Handle>(null);
  const faults = useMemo(() => check.data?.faults ?? [], [check.data]);
  const begin = () => {
    if (stored.mayWrite && !stored.writes) stored.write();
  };
  const change = (part: Partial<typeof words>) => {
    begin();
    stored.change(part);
  };
  const text = (
    <section aria-label="Draft" className="flex h-full min-h-0 flex-col bg-sheet">
      <Suspense fallback={<Notice title="Opening the editor">One moment.</Notice>}>
        <Editor
          text={words.text}
          taken={stored.taken}
          may={stored.mayWrite}
          faults={faults}
          change={(next) => change({ text: next })}
          begin={begin}
          handle={(made) => {
            editor.current = made;
          }}
        />
      </Suspense>
    </section>
  );
  const insert = (html: string) => editor.current?.insert(html);
  const append = (html: string) => editor.current?.append(html);
  const side = (
    <aside aria-label="Panels of the draft">
      <Views views={PANELS} chosen={panel} choose={setPanel} />
      <div className="px-5 py-3">
        {panel === "check" && (
          <CheckPanel
            check={check.data}
            coverage={brief.data?.coverage_sentence ?? ""}
            show={(quote) => editor.current?.show(quote)}
            help={(term) => {
              setWish({ task: "paragraph", term });
              setPanel("help");
            }}
          />
        )}
        {panel === "snippet" && (
          <Snippet address={draft.page ?? `${site.address}…`} words={words} set={change} fixed={!stored.mayWrite} />
        )}
        {panel === "brief" && <BriefPanel brief={brief.data} may={stored.mayWrite} append={append} />}
        {panel === "help" && (
          <HelpPanel
            slug={slug}
            id={draft.id}
            may={stored.mayWrite}
            wish={wish}
            setWish={setWish}
            insert={insert}
            append={append}
            setWords={change}
          />
        )}
        {panel === "versions" && (
          <VersionsPanel slug={slug} draft={draft} may={stored.mayWrite} putBack={stored.putBack} />
        )}
      </div>
    </aside>
  );
  return (
    <>
      <Head site={site} stored={stored} draft={draft} />
      <State stored={stored} draft={draft} again={() => setLater(false)} />
      <SplitPane name="draft" left={text} right={side} />
      {stored.doubts && !later && <Doubts doubts={stored.doubts} choose={stored.choose} later={() => setLater(true)} />}
    </>
  );
}

const SAVE_WORDS: Record<SaveState, string> = {
  saved: "Saved",
  unsaved: "Not saved yet",
  saving: "Saving",
  offline: "The server cannot be reached: saved in this browser",
  local: "Saved in this browser",
  refused: "Not saved",
};

function Head({ site, stored, draft }: { site: Schemas["SiteShown"]; stored: Loaded; draft: Draft }) {
  const act = useAct();
  const [finishing, setFinishing] = useState(false);
  const params = { path: { slug: site.slug, draft_id: draft.id } };
  const file = (kind: string) => download(`/api/sites/${site.slug}/drafts/${draft.id}/file?kind=${kind}`);
  const brief = `/api/sites/${site.slug}/brief/${draft.query_id}/document?page=${encodeURIComponent(draft.page ?? "")}`;
  return (
    <header className="flex min-h-11 flex-wrap items-baseline gap-x-4 gap-y-1 border-rule border-b px-4 py-2">
      <Link to="/$site/drafts" params={{ site: site.slug }} className="text-faint hover:text-ink">
        Drafts
      </Link>
      <h1 className="max-w-72 truncate text-lg" title={draft.name}>
        {draft.name}
      </h1>
      <span className="max-w-64 truncate text-faint" title={draft.page ?? undefined}>
        {draft.page ? path(draft.page) : "a new page"}
      </span>
      <span role="status" className={stored.state === "saved" ? "text-faint" : "text-ochre"}>
        {SAVE_WORDS[stored.state]}
      </span>
      <span className="ml-auto flex flex-wrap items-baseline gap-x-4">
        {stored.other && <span className="text-ochre">{stored.other} is writing</span>}
        <DropdownMenu.Root>
          <DropdownMenu.Trigger className="min-h-6 link">Save as</DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="end" className="z-30 border border-strong-rule bg-sheet p-1 shadow-lg">
              {[
                ["Word document (DOCX)", () => file("docx")],
                ["Markdown", () => file("md")],
                ["HTML", () => file("html")],
                ["Brief only (DOCX)", () => download(brief)],
              ].map(([name, run]) => (
                <DropdownMenu.Item
                  key={name as string}
                  onSelect={run as () => void}
                  className="cursor-pointer px-3 py-1 data-[highlighted]:bg-shade"
                >
                  {name as string}
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
        {site.may_change && draft.state === "open" && !draft.dropped && (
          <Button onClick={() => setFinishing(true)}>Mark as published</Button>
        )}
        {site.may_change && draft.state === "done" && (
          <Button onClick={() => act(() => api.POST("/api/sites/{slug}/drafts/{draft_id}/open", { params }))}>
            Open it again
          </Button>
        )}
      </span>
      {finishing && (
        <DoneDialog
          slug={site.slug}
          draft={draft}
          before={stored.save}
          close={() => setFinishing(false)}
          done={() => toast("Published. Its move is done; the result is measured in three to four weeks.")}
        />
      )}
    </header>
  );
}

/** What prevents writing or saving, and what to do about it. */
function State({ stored, draft, again }: { stored: Loaded; draft: Draft; again: () => void }) {
  const waiting = stored.state !== "saved" && stored.state !== "saving";
  if (stored.doubts)
    return (
      <Line>
        Someone else changed the same text. Your version is saved in this browser.{" "}
        <Button plain onClick={again}>
          Choose which to keep
        </Button>
      </Line>
    );
  if (draft.dropped) return <Line>This draft was removed; its text is saved.</Line>;
  if (draft.state === "done")
    return <Line>Published{draft.done_on && ` on ${day(draft.done_on)}`}. Open it again to change it.</Line>;
  if (stored.other)
    return (
      <Line>
        {stored.other} is writing; you see the changes as they are saved.
        {waiting && " Your unsaved changes are safe and will be merged."}{" "}
        {stored.found.isSuccess && (
          <Button plain onClick={() => stored.write(true)}>
            Take over
          </Button>
        )}
        {waiting && (
          <Button plain onClick={stored.letGo}>
            Discard my changes
          </Button>
        )}
      </Line>
    );
  if (stored.problem)
    return (
      <Line>
        {stored.problem}{" "}
        <Button plain onClick={stored.save}>
          Try again
        </Button>
      </Line>
    );
  return null;
}

function Line({ children }: { children: React.ReactNode }) {
  return (
    <p role="status" className="flex flex-wrap gap-x-3 border-rule border-b bg-shade px-4 py-1.5">
      {children}
    </p>
  );
}
