// The addresses of the application. Every place below a site requires a signed-in person.
import type { QueryClient } from "@tanstack/react-query";
import {
  createRootRouteWithContext,
  createRoute,
  createRouter,
  lazyRouteComponent,
  Outlet,
  redirect,
  type StaticDataRouteOption,
  useNavigate,
  useSearch,
} from "@tanstack/react-router";
import { type FC, Suspense, useCallback } from "react";
import { sessionQuery, sitesQuery } from "./api/ask";
import { useSite } from "./frame/useSite";
import type { PlaceProps } from "./listing/FindingPlace";
import { writeFor } from "./shared/format";
import { letLettersAct } from "./shared/keys";
import { Button, Failed, Notice } from "./shared/parts";
import { findingsOf, type ListSearch, readHelp, readList, readQuery, readReports, readSums } from "./state/view";

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
  component: lazyRouteComponent(() => import("./frame/SignIn"), "SignIn"),
});

const askForResetRoute = createRoute({
  getParentRoute: () => rootRoute,
  path: "/reset",
  component: lazyRouteComponent(() => import("./people/ResetPage"), "AskForReset"),
});
const resetRoute = createRoute({
  getParentRoute: () => rootRoute,
  path: "/reset/$user/$token",
  component: lazyRouteComponent(() => import("./people/ResetPage"), "ResetPage"),
});
const proofRoute = createRoute({
  getParentRoute: () => rootRoute,
  path: "/proof/$token",
  component: lazyRouteComponent(() => import("./people/ProofPage"), "ProofPage"),
});
const invitationRoute = createRoute({
  getParentRoute: () => rootRoute,
  path: "/invitation/$token",
  validateSearch: (search: Record<string, unknown>): { proved?: string } =>
    typeof search.proved === "string" ? { proved: search.proved } : {},
  component: lazyRouteComponent(() => import("./people/InvitationPage"), "InvitationPage"),
});

const readerRoute = createRoute({
  getParentRoute: () => rootRoute,
  id: "reader",
  component: lazyRouteComponent(() => import("./frame/Reader"), "Reader"),
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
  component: lazyRouteComponent(() => import("./frame/NoSite"), "NoSite"),
});

const sitesRoute = createRoute({
  getParentRoute: () => readerRoute,
  path: "/sites",
  component: lazyRouteComponent(() => import("./frame/SitesPlace"), "SitesPlace"),
});

const accountRoute = createRoute({
  getParentRoute: () => readerRoute,
  path: "/account",
  component: lazyRouteComponent(() => import("./people/AccountPlace"), "AccountPlace"),
});

const siteRoute = createRoute({
  getParentRoute: () => readerRoute,
  path: "/$site",
  component: lazyRouteComponent(() => import("./frame/Frame"), "Frame"),
});

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
  staticData: { place: { name: "Changes", key: "2", group: "understand" }, guide: "monthly-review" },
  validateSearch: readSums,
  component: lazyRouteComponent(() => import("./changes/ChangesPlace"), "ChangesPlace"),
});
const queryRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/query",
  staticData: { guide: "low-ctr" },
  validateSearch: readQuery,
  component: lazyRouteComponent(() => import("./queries/QueryPlace"), "QueryPlace"),
});

/** A place that lists findings. Changing the list adds a history entry; moving through its rows does not. */
function placeOf<Path extends string>(path: Path, staticData: StaticDataRouteOption, Place: FC<PlaceProps>) {
  const findings = findingsOf(path.slice(1));
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
          ...("row" in part && { state: true }), // walking with the evidence open leaves it open
        } as never),
      [navigate],
    );
    return site ? (
      <Suspense>
        <Place site={site} search={search} change={change} />
      </Suspense>
    ) : null;
  }
  return createRoute({
    getParentRoute: () => siteRoute,
    path,
    staticData,
    validateSearch: (values: Record<string, unknown>) => readList(values, findings),
    component: Listed,
  });
}
const queriesRoute = placeOf(
  "/queries",
  { place: { name: "Queries", key: "4", group: "understand" }, guide: "low-ctr" },
  lazyRouteComponent(() => import("./queries/QueriesPlace"), "QueriesPlace"),
);
const pagesRoute = placeOf(
  "/pages",
  { place: { name: "Pages", key: "3", group: "understand" }, guide: "monthly-review" },
  lazyRouteComponent(() => import("./pages/PagesPlace"), "PagesPlace"),
);
const clashesRoute = placeOf(
  "/clashes",
  { place: { name: "Clashes", key: "5", group: "understand" }, guide: "cannibalisation" },
  lazyRouteComponent(() => import("./clashes/ClashesPlace"), "ClashesPlace"),
);
const onPageRoute = placeOf(
  "/on-page",
  { place: { name: "On the page", key: "6", group: "improve" }, guide: "planning-content" },
  lazyRouteComponent(() => import("./onpage/OnPagePlace"), "OnPagePlace"),
);
const linksRoute = placeOf(
  "/links",
  { place: { name: "Links", key: "7", group: "improve" }, guide: "internal-links" },
  lazyRouteComponent(() => import("./links/LinksPlace"), "LinksPlace"),
);
const topicsRoute = placeOf(
  "/topics",
  { place: { name: "Topics", key: "8", group: "improve" }, guide: "planning-content" },
  lazyRouteComponent(() => import("./topics/TopicsPlace"), "TopicsPlace"),
);
const draftsRoute = placeOf(
  "/drafts",
  { place: { name: "Drafts", key: "9", group: "improve" }, guide: "planning-content" },
  lazyRouteComponent(() => import("./drafts/DraftsPlace"), "DraftsPlace"),
);
const draftRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/draft",
  staticData: { guide: "planning-content" },
  validateSearch: (search: Record<string, unknown>): { draft?: number } =>
    typeof search.draft === "number" ? { draft: search.draft } : {},
  component: lazyRouteComponent(() => import("./drafts/DraftPlace"), "DraftPlace"),
});
const movesRoute = placeOf(
  "/moves",
  { place: { name: "Moves", key: "0", group: "follow up" }, guide: "running-a-test" },
  lazyRouteComponent(() => import("./moves/MovesPlace"), "MovesPlace"),
);
const reportsRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/reports",
  staticData: { place: { name: "Reports", key: "", group: "follow up" }, guide: "reporting" },
  validateSearch: readReports,
  component: lazyRouteComponent(() => import("./reports/ReportsPlace"), "ReportsPlace"),
});
const helpRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/help",
  validateSearch: readHelp,
  component: lazyRouteComponent(() => import("./help/HelpPlace"), "HelpPlace"),
});
const peopleRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/people",
  staticData: { guide: "administering" },
  component: lazyRouteComponent(() => import("./people/PeoplePlace"), "PeoplePlace"),
});
const dataRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/data",
  staticData: { place: { name: "Data", key: "1", group: "" }, guide: "first-hour" },
  validateSearch: (search: Record<string, unknown>): { job?: number } =>
    typeof search.job === "number" ? { job: search.job } : {},
  component: lazyRouteComponent(() => import("./data/DataPlace"), "DataPlace"),
});
const cleaningRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/data/cleaning",
  staticData: { guide: "cleaning-data" },
  component: lazyRouteComponent(() => import("./data/CleaningPlace"), "CleaningPlace"),
});
const loadsRoute = createRoute({
  getParentRoute: () => siteRoute,
  path: "/data/loads",
  staticData: { guide: "first-hour" },
  validateSearch: (search: Record<string, unknown>): { load?: number } =>
    typeof search.load === "number" ? { load: search.load } : {},
  component: lazyRouteComponent(() => import("./data/LoadsPlace"), "LoadsPlace"),
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
      dataRoute,
      cleaningRoute,
      loadsRoute,
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
