// The addresses of the application. Every place below a site requires a signed-in person.
import type { QueryClient } from "@tanstack/react-query";
import {
  createRootRouteWithContext,
  createRoute,
  createRouter,
  Outlet,
  redirect,
  useNavigate,
  useSearch,
} from "@tanstack/react-router";
import { type FC, useCallback } from "react";
import { sessionQuery, sitesQuery } from "./api/ask";
import { ChangesPlace } from "./changes/ChangesPlace";
import { ClashesPlace, OF_CLASHES } from "./clashes/ClashesPlace";
import { CleaningPlace } from "./data/CleaningPlace";
import { DataPlace } from "./data/DataPlace";
import { LoadsPlace } from "./data/LoadsPlace";
import { DraftPlace } from "./drafts/DraftPlace";
import { DraftsPlace } from "./drafts/DraftsPlace";
import { Frame, useSite } from "./frame/Frame";
import { NoSite } from "./frame/NoSite";
import { SignIn } from "./frame/SignIn";
import { SitesPlace } from "./frame/SitesPlace";
import { HelpPlace, readHelp } from "./help/HelpPlace";
import { LinksPlace, OF_LINKS } from "./links/LinksPlace";
import type { PlaceProps } from "./listing/FindingPlace";
import { MovesPlace } from "./moves/MovesPlace";
import { OF_WORDING, OnPagePlace } from "./onpage/OnPagePlace";
import { PagesPlace } from "./pages/PagesPlace";
import { OF_PAGES } from "./pages/PageTwoCandidates";
import { AccountPlace } from "./people/AccountPlace";
import { InvitationPage } from "./people/InvitationPage";
import { PeoplePlace } from "./people/PeoplePlace";
import { ProofPage } from "./people/ProofPage";
import { AskForReset, ResetPage } from "./people/ResetPage";
import { OF_QUERIES, QueriesPlace } from "./queries/QueriesPlace";
import { QueryPlace } from "./queries/QueryPlace";
import { ReportsPlace, readReports } from "./reports/ReportsPlace";
import { writeFor } from "./shared/format";
import { letLettersAct } from "./shared/keys";
import { Button, Failed, Notice } from "./shared/parts";
import { type FindingName, type ListSearch, readList, readQuery, readSums } from "./state/view";
import { OF_TOPICS, TopicsPlace } from "./topics/TopicsPlace";
import { OF_MOVES } from "./trials/TrialsPlace";

const rootRoute = createRootRouteWithContext<{ queryClient: QueryClient }>()({
  component: Outlet,
  errorComponent: ({ error, reset }) => <Failed error={error} retry={reset} />,
  notFoundComponent: () => (
    <Notice title="Page not found" action={<Button onClick={() => location.assign("/")}>To your sites</Button>}>
      The address may be incomplete.
    </Notice>
  ),
});

const signInRoute = createRoute({
  getParentRoute: () => rootRoute,
  path: "/sign-in",
  validateSearch: (search: Record<string, unknown>): { next?: string } =>
    typeof search.next === "string" && /^\/(?!\/)/.test(search.next) ? { next: search.next } : {},
  component: SignIn,
});

const askForResetRoute = createRoute({ getParentRoute: () => rootRoute, path: "/reset", component: AskForReset });
const resetRoute = createRoute({ getParentRoute: () => rootRoute, path: "/reset/$user/$token", component: ResetPage });
const proofRoute = createRoute({ getParentRoute: () => rootRoute, path: "/proof/$token", component: ProofPage });
const invitationRoute = createRoute({
  getParentRoute: () => rootRoute,
  path: "/invitation/$token",
  validateSearch: (search: Record<string, unknown>): { proved?: string } =>
    typeof search.proved === "string" ? { proved: search.proved } : {},
  component: InvitationPage,
});

const readerRoute = createRoute({
  getParentRoute: () => rootRoute,
  id: "reader",
  beforeLoad: async ({ context, location }) => {
    const session = await context.queryClient.ensureQueryData(sessionQuery);
    if (!session.username) throw redirect({ to: "/sign-in", search: { next: location.href } });
    writeFor(session.preferences);
    letLettersAct(session.preferences.single_keys);
  },
});

const homeRoute = createRoute({
  getParentRoute: () => readerRoute,
  path: "/",
  beforeLoad: async ({ context }) => {
    const sites = await context.queryClient.ensureQueryData(sitesQuery);
    const site = sites.find((one) => one.last_day) ?? sites[0];
    if (site) throw redirect({ to: site.last_day ? "/$site/changes" : "/$site/data", params: { site: site.slug } });
  },
  component: NoSite,
});

const sitesRoute = createRoute({ getParentRoute: () => readerRoute, path: "/sites", component: SitesPlace });

const accountRoute = createRoute({ getParentRoute: () => readerRoute, path: "/account", component: AccountPlace });

const siteRoute = createRoute({ getParentRoute: () => readerRoute, path: "/$site", component: Frame });

const siteHomeRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/",
  beforeLoad: ({ params }) => {
    throw redirect({ to: "/$site/changes", params });
  },
});
const changesRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/changes",
  validateSearch: readSums,
  component: ChangesPlace,
});
const queryRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/query",
  validateSearch: readQuery,
  component: QueryPlace,
});

/** A place that lists findings. Changing the list adds a history entry; moving through its rows does not. */
function placeOf<Path extends string>(path: Path, findings: readonly FindingName[], Place: FC<PlaceProps>) {
  function Listed() {
    const { site } = useSite();
    const search: ListSearch = useSearch({ strict: false });
    const navigate = useNavigate();
    const change = useCallback(
      (part: Partial<ListSearch>) =>
        navigate({
          to: ".",
          search: (now: ListSearch) => ({ ...now, row: undefined, ...part }),
          replace: "row" in part,
        } as never),
      [navigate],
    );
    return site ? <Place site={site} search={search} change={change} /> : null;
  }
  return createRoute({
    getParentRoute: () => siteRoute,
    path,
    validateSearch: (values: Record<string, unknown>) => readList(values, findings),
    component: Listed,
  });
}
const queriesRoute = placeOf("/queries", OF_QUERIES, QueriesPlace);
const pagesRoute = placeOf("/pages", OF_PAGES, PagesPlace);
const clashesRoute = placeOf("/clashes", OF_CLASHES, ClashesPlace);
const onPageRoute = placeOf("/on-page", OF_WORDING, OnPagePlace);
const linksRoute = placeOf("/links", OF_LINKS, LinksPlace);
const topicsRoute = placeOf("/topics", OF_TOPICS, TopicsPlace);
const draftsRoute = placeOf("/drafts", ["drafts"], DraftsPlace);
const draftRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/draft",
  validateSearch: (search: Record<string, unknown>): { draft?: number } =>
    typeof search.draft === "number" ? { draft: search.draft } : {},
  component: DraftPlace,
});
const movesRoute = placeOf("/moves", OF_MOVES, MovesPlace);
const reportsRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/reports",
  validateSearch: readReports,
  component: ReportsPlace,
});
const helpRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/help",
  validateSearch: readHelp,
  component: HelpPlace,
});
const peopleRoute = createRoute({ getParentRoute: () => siteRoute, path: "/people", component: PeoplePlace });
const dataRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/data",
  validateSearch: (search: Record<string, unknown>): { job?: number } =>
    typeof search.job === "number" ? { job: search.job } : {},
  component: DataPlace,
});
const cleaningRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/data/cleaning",
  component: CleaningPlace,
});
const loadsRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/data/loads",
  validateSearch: (search: Record<string, unknown>): { load?: number } =>
    typeof search.load === "number" ? { load: search.load } : {},
  component: LoadsPlace,
});

const tree = rootRoute.addChildren([
  signInRoute,
  askForResetRoute,
  resetRoute,
  proofRoute,
  invitationRoute,
  readerRoute.addChildren([
    homeRoute,
    sitesRoute,
    accountRoute,
    siteRoute.addChildren([
      siteHomeRoute,
      changesRoute,
      pagesRoute,
      queriesRoute,
      queryRoute,
      clashesRoute,
      onPageRoute,
      linksRoute,
      topicsRoute,
      draftsRoute,
      draftRoute,
      movesRoute,
      reportsRoute,
      helpRoute,
      peopleRoute,
      dataRoute,
      cleaningRoute,
      loadsRoute,
    ]),
  ]),
]);

export function makeRouter(queryClient: QueryClient) {
  return createRouter({
    routeTree: tree,
    context: { queryClient },
    defaultPreload: false,
    search: { strict: true }, // invalid values in an address are ignored
  });
}
