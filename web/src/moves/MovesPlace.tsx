// Moves: what was decided, by whom, when, and what came of it.
import { getRouteApi } from "@tanstack/react-router";
import { useCallback, useMemo } from "react";
import { moveList } from "../api/hooks";
import { useSite } from "../frame/Frame";
import { SiteName, TextSearch } from "../queries/TopLine";
import { ListPlace, ListSays } from "../shared/ListPlace";
import { Method } from "../shared/Method";
import { useListPlace } from "../shared/place";
import { type MovesSearch, movesAsked, STATES } from "../state/search";
import { Aside } from "./Aside";
import { ChangeMarked } from "./ChangeMarked";
import { MoveList } from "./MoveList";
import { MoveSheet } from "./MoveSheet";

const route = getRouteApi("/reader/$site/moves");

export function MovesPlace() {
  const { slug, site } = useSite();
  const search = route.useSearch();
  const navigate = route.useNavigate();
  const asked = useMemo(() => movesAsked(search), [search]);
  const list = moveList.useHead(slug, asked, Boolean(site));
  const change = useCallback(
    (part: Partial<MovesSearch>) =>
      navigate({ search: (now) => ({ ...now, move: undefined, ...part }), replace: "move" in part }),
    [navigate],
  );
  const exported = { base: `/api/sites/${slug}/moves/file`, asked, rows: `${list.data?.total ?? "all"} moves` };
  useListPlace({ title: `Moves · ${site?.name ?? ""}`, ...exported });

  if (!site) return null;
  const move = search.move ?? list.data?.rows[0]?.id;
  const top = (
    <header className="flex min-h-11 flex-wrap items-center gap-x-4 gap-y-1 border-rule border-b px-4 py-1">
      <SiteName site={site} to="/$site/moves" />
      {[undefined, ...STATES].map((state) => (
        <button
          key={state ?? ""}
          type="button"
          aria-pressed={search.state === state}
          onClick={() => change({ state })}
          className={`border-b-2 ${search.state === state ? "border-ink font-semibold" : "border-transparent text-faint hover:text-ink"}`}
        >
          {state ?? "all"}
        </button>
      ))}
      <TextSearch text={search.text ?? ""} change={change} />
    </header>
  );
  return (
    <ListPlace
      name="moves"
      heading="Moves"
      top={top}
      failed={list}
      onMarked={site.may_change ? (marked) => <ChangeMarked slug={slug} marked={marked} /> : undefined}
      head={<ListSays sentences={list.data?.sentences} exported={exported} aside={<Method name="moves" />} long />}
      list={
        <>
          <MoveList
            slug={slug}
            asked={asked}
            list={list.data}
            stale={list.isPlaceholderData}
            search={search}
            change={change}
          />
          <Aside slug={slug} mayChange={site.may_change} />
        </>
      }
      evidence={
        move !== undefined && (
          <MoveSheet
            key={move}
            site={site}
            id={move}
            gone={() => change({})}
            hold={() => search.move ?? change({ move })}
          />
        )
      }
    />
  );
}
