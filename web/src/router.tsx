// The addresses of the application. Every place below a site asks for a signed-in reader first.
import type { QueryClient } from "@tanstack/react-query";
import { createRootRouteWithContext, createRoute, createRouter, Outlet, redirect } from "@tanstack/react-router";
import { sessionQuery, sitesQuery } from "./api/hooks";
import { ClashesPlace } from "./clashes/ClashesPlace";
import { Frame } from "./frame/Frame";
import { NoSite } from "./frame/NoSite";
import { SignIn } from "./frame/SignIn";
import { SitesPlace } from "./frame/SitesPlace";
import { CleaningPlace } from "./intake/CleaningPlace";
import { IntakePlace } from "./intake/IntakePlace";
import { LoadsPlace } from "./intake/LoadsPlace";
import { MovesPlace } from "./moves/MovesPlace";
import { PagesPlace } from "./pages/PagesPlace";
import { QueriesPlace } from "./queries/QueriesPlace";
import { QueryPlace } from "./queries/QueryPlace";
import { Button, Failed, Notice } from "./shared/parts";
import { StandingPlace } from "./standing/StandingPlace";
import {
  readClashesSearch,
  readMovesSearch,
  readPagesSearch,
  readQuerySearch,
  readSearch,
  readStandingSearch,
} from "./state/search";

const rootRoute = createRootRouteWithContext<{ queryClient: QueryClient }>()({
  component: Outlet,
  errorComponent: ({ error, reset }) => <Failed error={error} retry={reset} />,
  notFoundComponent: () => (
    <Notice title="There is no such place" action={<Button onClick={() => location.assign("/")}>To your sites</Button>}>
      The address may be cut short.
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

const readerRoute = createRoute({
  getParentRoute: () => rootRoute,
  id: "reader",
  beforeLoad: async ({ context, location }) => {
    const session = await context.queryClient.ensureQueryData(sessionQuery);
    if (!session.username) throw redirect({ to: "/sign-in", search: { next: location.href } });
  },
});

const homeRoute = createRoute({
  getParentRoute: () => readerRoute,
  path: "/",
  beforeLoad: async ({ context }) => {
    const sites = await context.queryClient.ensureQueryData(sitesQuery);
    const site = sites.find((one) => one.last_day) ?? sites[0];
    if (site) throw redirect({ to: site.last_day ? "/$site/standing" : "/$site/intake", params: { site: site.slug } });
  },
  component: NoSite,
});

const sitesRoute = createRoute({ getParentRoute: () => readerRoute, path: "/sites", component: SitesPlace });

const siteRoute = createRoute({ getParentRoute: () => readerRoute, path: "/$site", component: Frame });

const siteHomeRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/",
  beforeLoad: ({ params }) => {
    throw redirect({ to: "/$site/standing", params });
  },
});
const standingRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/standing",
  validateSearch: readStandingSearch,
  component: StandingPlace,
});
const queriesRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/queries",
  validateSearch: readSearch,
  component: QueriesPlace,
});
const queryRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/query",
  validateSearch: readQuerySearch,
  component: QueryPlace,
});
const pagesRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/pages",
  validateSearch: readPagesSearch,
  component: PagesPlace,
});
const clashesRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/clashes",
  validateSearch: readClashesSearch,
  component: ClashesPlace,
});
const movesRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/moves",
  validateSearch: readMovesSearch,
  component: MovesPlace,
});
const intakeRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/intake",
  validateSearch: (search: Record<string, unknown>): { job?: number } =>
    typeof search.job === "number" ? { job: search.job } : {},
  component: IntakePlace,
});
const cleaningRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/intake/cleaning",
  component: CleaningPlace,
});
const loadsRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/intake/loads",
  validateSearch: (search: Record<string, unknown>): { load?: number } =>
    typeof search.load === "number" ? { load: search.load } : {},
  component: LoadsPlace,
});

const tree = rootRoute.addChildren([
  signInRoute,
  readerRoute.addChildren([
    homeRoute,
    sitesRoute,
    siteRoute.addChildren([
      siteHomeRoute,
      standingRoute,
      pagesRoute,
      queriesRoute,
      queryRoute,
      clashesRoute,
      movesRoute,
      intakeRoute,
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
    search: { strict: true }, // what makes no sense in an address is passed over
  });
}
