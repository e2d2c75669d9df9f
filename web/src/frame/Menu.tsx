// The menu: the places in their groups, saved views, commands and what is about the person; on a phone one bar.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useMatches, useNavigate, useRouter } from "@tanstack/react-router";
import { ChevronDown, MoreHorizontal, PanelLeftClose, PanelLeftOpen, Search, Terminal, UserRound } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { type ReactNode, useEffect, useState } from "react";
import { sessionQuery } from "../api/ask";
import { api, type Schemas } from "../api/client";
import { currentTheme, switchTheme } from "../shared/theme";
import { useRoom } from "../shared/useRoom";
import { Board } from "./Board";
import { type Place, useGuide, usePlaces } from "./places";
import { SavedViews } from "./SavedViews";

type Props = {
  slug: string;
  site: Schemas["SiteShown"] | undefined;
  showKeys: () => void;
  add: () => void;
  command: () => void;
};

const NARROW = "zugzwang-rail-narrow";

export function Menu(props: Props) {
  const room = useRoom();
  return room === "phone" ? <PhoneBar {...props} /> : <Rail {...props} startNarrow={room === "narrow"} />;
}

function Rail(props: Props & { startNarrow: boolean }) {
  const { slug, site } = props;
  const [narrow, setNarrow] = useState(() => localStorage.getItem(NARROW) === "1" || props.startNarrow);
  function fold() {
    localStorage.setItem(NARROW, narrow ? "0" : "1");
    setNarrow(!narrow);
  }
  const session = useQuery(sessionQuery);
  const foot = `flex h-7 w-full items-center gap-2 hover:text-ink ${narrow ? "justify-center" : "px-4"}`;
  return (
    <nav
      aria-label="Places"
      className={`flex shrink-0 flex-col overflow-y-auto overflow-x-hidden border-rule border-r ${narrow ? "w-12" : "w-40"} pt-2.5 pb-2`}
    >
      <Link
        to="/sites"
        title="All sites"
        aria-label="Zugzwang: all sites"
        className={`flex items-center gap-2 ${narrow ? "justify-center" : "px-4"} pb-2`}
      >
        <Board />
        {!narrow && <span className="font-semibold font-serif text-lg">Zugzwang</span>}
      </Link>
      <PlaceList narrow={narrow}>
        {(place) => <PlaceLink key={place.to} slug={slug} place={place} narrow={narrow} />}
      </PlaceList>
      {!narrow && site && <SavedViews slug={slug} mayChange={site.may_change} />}
      <div className="mt-auto w-full shrink-0 pt-2 text-faint">
        <button
          type="button"
          onClick={props.command}
          className={foot}
          aria-label="Commands"
          title="Commands (Ctrl or ⌘ K)"
        >
          <Terminal size={14} aria-hidden="true" />
          {!narrow && "Commands"}
        </button>
        <PersonMenu {...props}>
          <button type="button" className={foot} aria-label={`Signed in as ${session.data?.username ?? ""}`}>
            <UserRound size={14} aria-hidden="true" className="shrink-0" />
            {!narrow && <span className="truncate">{session.data?.username}</span>}
            {!narrow && <ChevronDown size={12} aria-hidden="true" className="shrink-0" />}
          </button>
        </PersonMenu>
        <button
          type="button"
          onClick={fold}
          className={foot}
          aria-label={narrow ? "Expand menu" : "Collapse menu"}
          title={narrow ? "Expand menu" : "Collapse menu"}
        >
          {narrow ? <PanelLeftOpen size={14} aria-hidden="true" /> : <PanelLeftClose size={14} aria-hidden="true" />}
          {!narrow && "Collapse"}
        </button>
      </div>
    </nav>
  );
}

/** The places under the names of their groups. */
function PlaceList({ narrow, children }: { narrow: boolean; children: (place: Place) => ReactNode }) {
  const places = usePlaces();
  const groups = [...new Set(places.map((place) => place.group))];
  return groups.map((group) => (
    <ul key={group} aria-label={group || undefined} className="w-full shrink-0">
      {group && (
        <li
          aria-hidden="true"
          className={narrow ? "mx-3 my-1 border-rule border-t" : "px-4 pt-1.5 text-axis text-faint"}
        >
          {!narrow && group}
        </li>
      )}
      {places.filter((place) => place.group === group).map(children)}
    </ul>
  ));
}

function PlaceLink({ slug, place, narrow }: { slug: string; place: Place; narrow: boolean }) {
  return (
    <li>
      <Link
        to={place.to}
        params={{ site: slug }}
        title={place.key ? `${place.name} (${place.key})` : place.name}
        activeProps={{ className: "bg-shade font-semibold border-l-ink", "aria-current": "page" }}
        inactiveProps={{ className: "border-l-transparent" }}
        className={`flex h-[1.875rem] items-center justify-between border-l-3 font-serif text-base hover:bg-shade ${narrow ? "pl-2.5" : "pr-4 pl-3"}`}
      >
        {narrow ? (
          <>
            <span aria-hidden="true">{place.name.slice(0, 2)}</span>
            <span className="sr-only">{place.name}</span>
          </>
        ) : (
          place.name
        )}
        {!narrow && (
          <span aria-hidden="true" className="font-sans text-faint text-xs">
            {place.key}
          </span>
        )}
      </Link>
    </li>
  );
}

function PhoneBar(props: Props) {
  const { slug } = props;
  const current = useMatches({
    select: (matches) => matches.findLast((one) => one.staticData.place)?.staticData.place,
  });
  const button = "flex h-12 items-center gap-1.5 px-3";
  return (
    <nav aria-label="Places" className="flex h-12 shrink-0 items-center border-ink border-b pl-3">
      <Link to="/sites" aria-label="Zugzwang: all sites" className="flex h-12 items-center pr-1">
        <Board />
      </Link>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className={`${button} font-semibold font-serif text-lg`}>
          {current?.name ?? "Places"} <ChevronDown size={16} aria-hidden="true" />
        </DropdownMenu.Trigger>
        <Entries>
          <PlaceEntries slug={slug} />
        </Entries>
      </DropdownMenu.Root>
      <button type="button" onClick={props.command} aria-label="Search" className={`${button} ml-auto`}>
        <Search size={18} aria-hidden="true" />
      </button>
      <PersonMenu {...props}>
        <button type="button" aria-label="More" className={button}>
          <MoreHorizontal size={18} aria-hidden="true" />
        </button>
      </PersonMenu>
    </nav>
  );
}

function PlaceEntries({ slug }: { slug: string }) {
  const navigate = useNavigate();
  return usePlaces().map((place) => (
    <Entry key={place.to} act={() => navigate({ to: place.to, params: { site: slug } })}>
      {place.name}
    </Entry>
  ));
}

function Entries({ children }: { children: ReactNode }) {
  return (
    <DropdownMenu.Portal>
      <DropdownMenu.Content
        side="bottom"
        align="start"
        collisionPadding={8}
        className="z-30 max-h-[80vh] min-w-48 overflow-auto border border-strong-rule bg-sheet py-1 shadow-lg"
      >
        {children}
      </DropdownMenu.Content>
    </DropdownMenu.Portal>
  );
}

function Entry({ act, children }: { act: () => unknown; children: ReactNode }) {
  return (
    <DropdownMenu.Item
      onSelect={() => void act()}
      className="flex min-h-8 cursor-pointer items-center px-4 outline-none data-[highlighted]:bg-shade data-[highlighted]:outline-1 data-[highlighted]:outline-ink max-sm:min-h-11"
    >
      {children}
    </DropdownMenu.Item>
  );
}

/** What is about the person and the whole product: below its trigger. */
function PersonMenu({ slug, add, showKeys, children }: Props & { children: ReactNode }) {
  const router = useRouter();
  const guide = useGuide();
  const queryClient = useQueryClient();
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
  const params = { site: slug };
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>{children}</DropdownMenu.Trigger>
      <Entries>
        <Entry act={() => router.navigate({ to: "/account" })}>Your account</Entry>
        <Entry act={() => router.navigate({ to: "/$site/people", params })}>People</Entry>
        <Entry act={add}>Add a site</Entry>
        <Entry act={switchTheme}>{dark ? "Light theme" : "Dark theme"}</Entry>
        <Entry act={() => router.navigate({ to: "/$site/help", params, search: { page: guide } })}>Help</Entry>
        <Entry act={showKeys}>Shortcuts</Entry>
        <DropdownMenu.Separator className="my-1 border-rule border-t" />
        <Entry act={signOut}>Sign out</Entry>
      </Entries>
    </DropdownMenu.Root>
  );
}
