// Reports: templates with a preview; and finished reports.
import { useNavigate, useSearch } from "@tanstack/react-router";
import { ask, ofSite } from "../api/ask";
import { useSite } from "../frame/useSite";
import { PlaceLine } from "../listing/PlaceLine";
import { Failed, Notice } from "../shared/parts";
import { Views } from "../shared/Views";
import type { ReportsSearch } from "../state/view";
import { MadeReports } from "./MadeReports";
import type { ReportsProps } from "./props";
import { Templates } from "./Templates";

export function ReportsPlace() {
  const { site } = useSite();
  const search: ReportsSearch = useSearch({ strict: false });
  const navigate = useNavigate();
  const change = (to: ReportsSearch) => navigate({ to: ".", search: to as never });
  if (!site) return null;
  return <Loaded site={site} search={search} change={change} />;
}

function Loaded({ site, search, change }: Omit<ReportsProps, "stored">) {
  const found = ask.useQuery("get", "/api/sites/{slug}/reports", ofSite(site.slug), {
    staleTime: 5_000,
    // Pending work is polled until it is done.
    refetchInterval: (query) =>
      query.state.data?.reports.some(
        (one) => (!one.made_at && !one.problem) || one.sendings.some((mail) => mail.state === "waiting"),
      )
        ? 2_000
        : 30_000,
  });
  // A site without a report starts with an example of its contents.
  const view = search.view ?? (found.data?.reports.length === 0 && !search.report ? "templates" : "made");
  const views = { made: "Made and sent", templates: "Templates" };
  return (
    <>
      <PlaceLine site={site} to="/$site/reports" />
      <h1 className="sr-only">Reports</h1>
      <Views views={views} chosen={view} choose={(one) => change(one === "templates" ? { view: "templates" } : {})} />
      {found.error ? (
        <Failed error={found.error} retry={() => found.refetch()} />
      ) : !found.data ? (
        <Notice title="Loading the reports">One moment.</Notice>
      ) : view === "templates" ? (
        <Templates site={site} stored={found.data} search={search} change={change} />
      ) : (
        <MadeReports site={site} stored={found.data} search={search} change={change} />
      )}
    </>
  );
}
