// The frame of every place: the menu, the commands, the keys.
import { Link, Outlet, useNavigate } from "@tanstack/react-router";
import { Fragment, lazy, Suspense, useEffect, useRef, useState } from "react";
import { usePreferences } from "../people/usePreferences";
import { Dialog } from "../shared/Dialog";
import { KEYS, lettersAct, useKeys } from "../shared/keys";
import { MethodDialog } from "../shared/Method";
import { Failed, Notice } from "../shared/parts";
import { switchTheme } from "../shared/theme";
import { Menu } from "./Menu";
import { AddSite } from "./NoSite";
import { usePlaces } from "./places";
import { useSite } from "./useSite";

const fetchCommands = () => import("./Commands");
const Commands = lazy(fetchCommands);

export function Frame() {
  const { slug, site, sites } = useSite();
  const navigate = useNavigate();
  const places = usePlaces();
  const [keysOpen, setKeysOpen] = useState(false);
  const [wordsOpen, setWordsOpen] = useState(false);
  const [adding, setAdding] = useState(false);
  const [commanding, setCommanding] = useState(false);

  useKeys({
    ...Object.fromEntries(
      places
        .filter((place) => place.key)
        .map((place) => [place.key, () => navigate({ to: place.to, params: { site: slug } })]),
    ),
    t: switchTheme,
    "?": () => setKeysOpen(true),
  });
  useCommandKey(() => setCommanding(true));
  // biome-ignore lint/correctness/useExhaustiveDependencies: another site closes the form that added it
  useEffect(() => setAdding(false), [slug]);

  if (sites.error) return <Failed error={sites.error} retry={() => sites.refetch()} />;
  return (
    <div className="frame flex h-full max-sm:flex-col">
      <a href="#content" className="sr-only z-40 bg-paper p-2 underline focus:not-sr-only focus:absolute">
        Skip to the content
      </a>
      <Menu
        slug={slug}
        site={site}
        showKeys={() => setKeysOpen(true)}
        add={() => setAdding(true)}
        command={() => setCommanding(true)}
      />
      <main id="content" tabIndex={-1} className="flex min-h-0 min-w-0 flex-1 flex-col outline-none">
        {sites.data && !site ? (
          <Notice title="No such site" action={<Link to="/">To your sites</Link>}>
            It may have another name, or you may have no access. Ask an owner of the site.
          </Notice>
        ) : (
          // Another site starts afresh: nothing of the previous one remains, such as an upload under way.
          site && (
            <Fragment key={slug}>
              <Outlet />
            </Fragment>
          )
        )}
      </main>
      <KeysDialog open={keysOpen} setOpen={setKeysOpen} />
      {commanding && site && (
        <Suspense fallback={null}>
          <Commands
            slug={slug}
            mayChange={site.may_change}
            close={() => setCommanding(false)}
            add={() => setAdding(true)}
            showKeys={() => setKeysOpen(true)}
            showWords={() => setWordsOpen(true)}
          />
        </Suspense>
      )}
      {wordsOpen && <MethodDialog name="words" onOpen={setWordsOpen} />}
      <Dialog title="Add a site" open={adding} onOpen={setAdding}>
        <AddSite />
      </Dialog>
    </div>
  );
}

/** The keys that open the commands. */
function useCommandKey(open: () => void) {
  const latest = useRef(open);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() !== "k" || !(event.ctrlKey || event.metaKey)) return;
      event.preventDefault();
      latest.current();
    };
    window.addEventListener("keydown", onKey);
    // Prefetched: people who press its key continue typing at once.
    const ahead = setTimeout(fetchCommands, 1_500);
    return () => {
      window.removeEventListener("keydown", onKey);
      clearTimeout(ahead);
    };
  }, []);
}

function KeysDialog({ open, setOpen }: { open: boolean; setOpen: (open: boolean) => void }) {
  const digits = usePlaces().flatMap(({ key, name }) => (key ? [[key, name] as const] : []));
  const preferences = usePreferences();
  const [letters, setLetters] = useState(lettersAct);
  const keepLetters = (single_keys: boolean) => {
    setLetters(single_keys);
    preferences.change({ single_keys }, `Single-letter shortcuts are ${single_keys ? "on" : "off"}.`);
  };
  return (
    <Dialog title="Keyboard shortcuts" open={open} onOpen={setOpen}>
      <dl className="grid grid-cols-[6rem_1fr] gap-y-1.5">
        {[...digits, ...KEYS].map(([key, does]) => (
          <div key={key} className="contents">
            <dt>
              <kbd className="font-sans font-semibold">{key}</kbd>
            </dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
      <label className="mt-3 inline-flex min-h-7 items-center gap-1.5 border-rule border-t pt-2">
        <input type="checkbox" checked={letters} onChange={(event) => keepLetters(event.target.checked)} />
        Single-letter shortcuts are on
      </label>
    </Dialog>
  );
}
