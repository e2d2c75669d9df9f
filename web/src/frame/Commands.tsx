// Commands by name (Ctrl or ⌘ K): places, findings, saved views, any page or query, keyboard shortcuts.
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { Command } from "cmdk";
import { useDeferredValue, useState } from "react";
import { ask, STEADY, sitesQuery } from "../api/ask";
import { CATALOG } from "../api/catalog.generated";
import { Dialog } from "../shared/Dialog";
import { path } from "../shared/format";
import { switchTheme } from "../shared/theme";
import { findingsOf, GRADES } from "../state/view";
import { usePlaces } from "./places";
import { useViews } from "./useViews";

type Props = {
  slug: string;
  mayChange: boolean;
  close: () => void;
  add: () => void;
  showKeys: () => void;
  showWords: () => void;
};

export default function Commands({ slug, mayChange, close, add, showKeys, showWords }: Props) {
  const [typed, setTyped] = useState("");
  const navigate = useNavigate();
  const { views, open, save, remove } = useViews(slug);
  const sites = useQuery(sitesQuery);
  const places = usePlaces();
  const params = { site: slug };
  const words = typed.trim();

  const run = (does: () => unknown) => () => {
    close();
    does();
  };
  return (
    <Dialog title="Commands" open onOpen={(open) => !open && close()}>
      <Command label="Commands" loop>
        <Command.Input
          value={typed}
          onValueChange={setTyped}
          placeholder="place, page or query, or a name to save this view"
          className="w-full border border-strong-rule bg-sheet px-2 py-1"
          autoFocus
        />
        <Command.List className="mt-2 max-h-[52vh] overflow-auto" label="Commands">
          <Command.Empty className="py-2 text-faint">No matches.</Command.Empty>
          {words && <Find slug={slug} words={words} run={run} save={mayChange ? save : null} />}
          {views.length > 0 && (
            <Group heading="Saved views">
              {views.map((view) => (
                <Item key={view.id} value={`view ${view.name}`} run={run(() => open(view))}>
                  {view.name} <span className="text-faint text-xs">{view.by}</span>
                </Item>
              ))}
            </Group>
          )}
          <Group heading="Places">
            {places.map((place) => (
              <Item key={place.to} value={place.name} run={run(() => navigate({ to: place.to, params }))}>
                {place.name} <kbd className="font-sans text-faint text-xs">{place.key}</kbd>
              </Item>
            ))}
            {findingsOf("queries").map((finding) => (
              <Item
                key={finding}
                value={CATALOG[finding].title}
                run={run(() => navigate({ to: "/$site/queries", params, search: { finding } }))}
              >
                Queries: {CATALOG[finding].title}
              </Item>
            ))}
          </Group>
          <Group heading="Do">
            <Item value="light or dark theme" run={run(switchTheme)}>
              Light or dark theme
            </Item>
            <Item value="all keys" run={run(showKeys)}>
              Show all shortcuts
            </Item>
            <Item value="what the words mean: glossary" run={run(showWords)}>
              What the words mean
            </Item>
            <Item value="add a site" run={run(add)}>
              Add a site
            </Item>
            {sites.data
              ?.filter((one) => one.slug !== slug)
              .map((one) => (
                <Item
                  key={one.slug}
                  value={`site ${one.name}`}
                  run={run(() => navigate({ to: "/$site/changes", params: { site: one.slug } }))}
                >
                  Go to {one.name}
                </Item>
              ))}
            {mayChange &&
              views.map((view) => (
                <Item key={view.id} value={`remove view ${view.name}`} run={run(() => remove(view))}>
                  Remove the view “{view.name}”
                </Item>
              ))}
          </Group>
        </Command.List>
      </Command>
    </Dialog>
  );
}

type FindProps = {
  slug: string;
  words: string;
  run: (does: () => unknown) => () => void;
  save: ((name: string) => unknown) | null; // null where views cannot be saved
};

/** Pages and queries with the typed words. */
function Find({ slug, words, run, save }: FindProps) {
  const navigate = useNavigate();
  const params = { site: slug };
  const text = useDeferredValue(words);
  const found = ask.useQuery(
    "get",
    "/api/sites/{slug}/names",
    { params: { path: { slug }, query: { text } } },
    { ...STEADY, enabled: text.length > 1 },
  ).data;
  return (
    <Group heading="Find">
      {found?.queries.map((one) => (
        <Item
          key={one.id}
          value={`query ${words} ${one.text}`}
          run={run(() => navigate({ to: "/$site/query", params, search: { query: one.id } }))}
        >
          {one.text} <span className="text-faint text-xs">query</span>
        </Item>
      ))}
      {found?.pages.map((one) => (
        <Item
          key={one.id}
          value={`page ${words} ${one.text}`}
          run={run(() => navigate({ to: "/$site/pages", params, search: { row: String(one.id) } }))}
        >
          {path(one.text)} <span className="text-faint text-xs">page</span>
        </Item>
      ))}
      <Item
        value={`find pages ${words}`}
        run={run(() => navigate({ to: "/$site/pages", params, search: { text: words } }))}
      >
        Pages with “{words}”
      </Item>
      <Item
        value={`find queries ${words}`}
        run={run(() =>
          navigate({
            to: "/$site/queries",
            params,
            search: { text: words, evidence: GRADES },
          }),
        )}
      >
        Queries with “{words}”
      </Item>
      {save && (
        <Item value={`save view ${words}`} run={run(() => save(words))}>
          Save this view as “{words}”
        </Item>
      )}
    </Group>
  );
}

function Group({ heading, children }: { heading: string; children: React.ReactNode }) {
  return (
    <Command.Group
      heading={heading}
      className="[&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:text-faint [&_[cmdk-group-heading]]:text-xs"
    >
      {children}
    </Command.Group>
  );
}

function Item({ value, run, children }: { value: string; run: () => void; children: React.ReactNode }) {
  return (
    <Command.Item value={value} onSelect={run} className="cursor-pointer px-2 py-1 data-[selected=true]:bg-picked">
      {children}
    </Command.Item>
  );
}
