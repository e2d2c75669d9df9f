// The frame of every place: the menu, the signed-in person, the keys.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useNavigate, useRouter } from "@tanstack/react-router";
import {
  CircleHelp,
  Keyboard,
  LogOut,
  Moon,
  PanelLeftClose,
  PanelLeftOpen,
  Plus,
  Sun,
  Terminal,
  UserRound,
  Users,
} from "lucide-react";
import { Fragment, lazy, type ReactNode, Suspense, useEffect, useRef, useState } from "react";
import { sessionQuery } from "../api/ask";
import { api, type Schemas } from "../api/client";
import { usePreferences } from "../people/usePreferences";
import { Dialog } from "../shared/Dialog";
import { KEYS, lettersAct, useKeys } from "../shared/keys";
import { MethodDialog } from "../shared/Method";
import { Failed, Notice } from "../shared/parts";
import { currentTheme, switchTheme } from "../shared/theme";
import { Board } from "./Board";
import { AddSite } from "./NoSite";
import { useGuide, usePlaces } from "./places";
import { SavedViews } from "./SavedViews";
import { useSite } from "./useSite";

const fetchCommands = () => import("./Commands");
const Commands = lazy(fetchCommands);
const NARROW = "zugzwang-rail-narrow";

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
    <div className="flex h-full">
      <Menu slug={slug} site={site}>
        {(narrow, fold) => (
          <RailFoot
            slug={slug}
            narrow={narrow}
            fold={fold}
            showKeys={() => setKeysOpen(true)}
            add={() => setAdding(true)}
            command={() => setCommanding(true)}
          />
        )}
      </Menu>
      <main className="flex min-w-0 flex-1 flex-col">
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

type MenuProps = {
  slug: string;
  site: Schemas["SiteShown"] | undefined;
  children: (narrow: boolean, fold: () => void) => ReactNode;
};

function Menu({ slug, site, children }: MenuProps) {
  const [narrow, setNarrow] = useState(() => localStorage.getItem(NARROW) === "1" || innerWidth < 900);
  function fold() {
    localStorage.setItem(NARROW, narrow ? "0" : "1");
    setNarrow(!narrow);
  }

  return (
    <nav
      aria-label="Places"
      className={`flex shrink-0 flex-col border-rule border-r ${narrow ? "w-12 items-center" : "w-40"} py-3`}
    >
      <Link
        to="/sites"
        title="All sites"
        aria-label="Zugzwang: all sites"
        className={`flex items-center gap-2 ${narrow ? "" : "px-4"} pb-4`}
      >
        <Board />
        {!narrow && <span className="font-semibold font-serif text-lg">Zugzwang</span>}
      </Link>
      <ul className="w-full">
        {usePlaces().map((place) => (
          <li key={place.to}>
            <Link
              to={place.to}
              params={{ site: slug }}
              title={place.key ? `${place.name} (${place.key})` : place.name}
              activeProps={{ className: "bg-shade font-semibold border-l-ink", "aria-current": "page" }}
              inactiveProps={{ className: "border-l-transparent" }}
              className={`flex items-baseline justify-between border-l-3 py-1.5 font-serif text-base hover:bg-shade ${narrow ? "pl-3.5" : "px-4"}`}
            >
              {narrow ? (
                <abbr title={place.name} className="no-underline">
                  {place.name[0]}
                </abbr>
              ) : (
                place.name
              )}
              {!narrow && <kbd className="font-sans text-faint text-xs">{place.key}</kbd>}
            </Link>
          </li>
        ))}
      </ul>
      {!narrow && site && <SavedViews slug={slug} mayChange={site.may_change} />}
      {children(narrow, fold)}
    </nav>
  );
}

type FootProps = {
  slug: string;
  narrow: boolean;
  fold: () => void;
  showKeys: () => void;
  add: () => void;
  command: () => void;
};

function RailFoot(props: FootProps) {
  const session = useQuery(sessionQuery);
  const guide = useGuide();
  const queryClient = useQueryClient();
  const router = useRouter();
  const [dark, setDark] = useState(currentTheme() === "dark");
  useEffect(() => {
    const follow = () => setDark(currentTheme() === "dark");
    window.addEventListener("themechange", follow);
    return () => window.removeEventListener("themechange", follow);
  }, []);

  async function signOut() {
    await queryClient.cancelQueries(); // otherwise pending requests are refused
    await api.DELETE("/api/session");
    queryClient.clear();
    router.history.push("/sign-in");
  }

  const entries = [
    { name: "Commands", icon: Terminal, act: props.command },
    { name: "Add a site", icon: Plus, act: props.add },
    {
      name: "People",
      icon: Users,
      act: () => router.navigate({ to: "/$site/people", params: { site: props.slug } }),
    },
    ...(props.narrow
      ? [{ name: "Your account", icon: UserRound, act: () => router.navigate({ to: "/account" }) }]
      : []),
    { name: dark ? "Light theme" : "Dark theme", icon: dark ? Sun : Moon, act: switchTheme },
    {
      name: "Help",
      icon: CircleHelp,
      act: () =>
        router.navigate({
          to: "/$site/help",
          params: { site: props.slug },
          search: { page: guide },
        }),
    },
    { name: "Shortcuts", icon: Keyboard, act: props.showKeys },
    { name: "Sign out", icon: LogOut, act: signOut },
    {
      name: props.narrow ? "Expand menu" : "Collapse menu",
      icon: props.narrow ? PanelLeftOpen : PanelLeftClose,
      act: props.fold,
    },
  ];
  return (
    <div className="mt-auto w-full pt-3 text-faint">
      {!props.narrow && (
        <p className="truncate px-4 pb-1 text-xs">
          <Link to="/account" className="inline-block min-h-6 hover:text-ink hover:underline" title="Your account">
            Signed in as {session.data?.username}
          </Link>
        </p>
      )}
      {entries.map(({ name, icon: Icon, act }) => (
        <button
          key={name}
          type="button"
          onClick={act}
          aria-label={name}
          title={name}
          className={`flex w-full items-center gap-2 py-1 hover:text-ink ${props.narrow ? "justify-center" : "px-4"}`}
        >
          <Icon size={14} aria-hidden="true" />
          {!props.narrow && name}
        </button>
      ))}
    </div>
  );
}
