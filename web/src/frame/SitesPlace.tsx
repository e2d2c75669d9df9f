// All sites of the person: their state, and a refresh of all.
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { toast } from "sonner";
import { ask } from "../api/ask";
import { api, values } from "../api/client";
import { Dialog } from "../shared/Dialog";
import { count, day, many, moment, NONE, share } from "../shared/format";
import { Button, Failed, Notice } from "../shared/parts";
import { useAct } from "../shared/useAct";
import { Board } from "./Board";
import { AddSite } from "./NoSite";

// Name, and whether it is numeric.
const COLUMNS: [string, boolean][] = [
  ["site", false],
  ["clicks in the period", true],
  ["against last year", true],
  ["lost clicks a month", true],
  ["last day", false],
  ["services asked", false],
  ["to check", false],
];

const WAIT_MS = 1_000;

export function SitesPlace() {
  const sites = useQuery({
    queryKey: ["portfolio"],
    queryFn: async () => values(await api.GET("/api/portfolio")),
    // Sites whose figures are still being computed appear with the next request.
    refetchInterval: ({ state }) => (state.data?.some((one) => !one.ready) ? WAIT_MS : false),
  });
  const act = useAct();
  const [adding, setAdding] = useState(false);
  useEffect(() => {
    document.title = "Sites · Zugzwang";
  }, []);

  async function refreshAll() {
    const options = await act(() => api.POST("/api/refresh"));
    if (options)
      toast(
        options.sites.length
          ? `Bringing up to date: ${options.sites.join(", ")}.`
          : "No site has a service to refresh, or all refreshes are running.",
      );
  }

  if (sites.error) return <Failed error={sites.error} retry={() => sites.refetch()} />;
  return (
    <main className="mx-auto max-w-6xl px-6 py-5">
      <header className="flex items-center gap-3">
        <Board />
        <h1 className="flex-1 text-2xl">Sites</h1>
        <Button onClick={() => setAdding(true)}>Add a site</Button>
        {sites.data?.some((one) => one.connections > 0 && one.may_change) && (
          <Button onClick={refreshAll}>Refresh all</Button>
        )}
      </header>
      <div className="mt-4 overflow-x-auto">
        <table className="w-full text-left">
          <thead className="border-ink border-b text-faint text-xs">
            <tr>
              {COLUMNS.map(([name, figures]) => (
                <th key={name} scope="col" className={`py-1 pr-5 font-normal ${figures ? "text-right" : ""}`}>
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {sites.data?.map((one) => (
              <tr key={one.slug} className="border-rule border-b align-top">
                <th scope="row" className="py-2 pr-5 font-normal">
                  <Link
                    to={one.last_day ? "/$site/changes" : "/$site/data"}
                    params={{ site: one.slug }}
                    className="font-serif text-base underline"
                  >
                    {one.name}
                  </Link>
                  <span className="block text-faint text-xs">{one.address}</span>
                </th>
                <td className="py-2 pr-5 text-right">
                  {one.clicks == null ? NONE : <strong className="font-semibold">{count(one.clicks)}</strong>}
                  <span className="block text-faint text-xs">{one.ready ? one.period : "being calculated"}</span>
                </td>
                <td className={`py-2 pr-5 text-right ${(one.change ?? 0) < 0 ? "text-rust" : "text-spruce"}`}>
                  {one.change == null ? NONE : `${one.change < 0 ? "−" : "+"}${share(Math.abs(one.change))}`}
                </td>
                <td className="py-2 pr-5 text-right">{one.lost == null ? NONE : count(one.lost)}</td>
                <td className="whitespace-nowrap py-2 pr-5">
                  {one.last_day ? day(one.last_day) : one.ready ? "no data yet" : NONE}
                  {one.missing_days > 0 && (
                    <span className="block text-rust text-xs">{many(one.missing_days, "day")} missing</span>
                  )}
                </td>
                <td className="whitespace-nowrap py-2 pr-5 text-faint">
                  {one.connections
                    ? `${many(one.connections, "service")}, ${one.requested_at ? moment(one.requested_at) : "never asked"}`
                    : "none connected"}
                </td>
                <td className="py-2 text-ochre text-xs">
                  {one.unsound.slice(0, 3).map((words) => (
                    <p key={words}>{words}</p>
                  ))}
                  {one.unsound.length > 3 && <p>and {count(one.unsound.length - 3)} more</p>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {sites.isPending && <Notice title="Calculating">Comparing each site's clicks with a year before.</Notice>}
      </div>
      <DeletedSites />
      <Dialog title="Add a site" open={adding} onOpen={setAdding}>
        <AddSite />
      </Dialog>
    </main>
  );
}

/** Deleted sites that can still be restored. */
function DeletedSites() {
  const found = ask.useQuery("get", "/api/deleted-sites", {});
  const act = useAct();
  if (!found.data?.length) return null;
  const back = (slug: string) =>
    act(
      () => api.POST("/api/deleted-sites/{slug}/restore", { params: { path: { slug } } }).then(() => ({ data: true })),
      "The site is restored.",
    );
  return (
    <section aria-label="Deleted sites" className="mt-6">
      <h2 className="text-lg">Deleted</h2>
      <ul>
        {found.data.map((one) => (
          <li key={one.slug} className="flex items-baseline gap-x-4 py-1">
            {one.name}, deleted permanently in {many(one.days_left, "day")}
            <Button plain className="min-h-6" onClick={() => back(one.slug)}>
              Restore
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
