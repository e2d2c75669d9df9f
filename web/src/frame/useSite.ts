// The site in the address, with its currency.
import { useQuery } from "@tanstack/react-query";
import { getRouteApi } from "@tanstack/react-router";
import { useMemo } from "react";
import { sessionQuery, sitesQuery } from "../api/ask";

const route = getRouteApi("/reader/$site");

export function useSite() {
  const { site: slug } = route.useParams();
  const sites = useQuery(sitesQuery);
  const found = sites.data?.find((one) => one.slug === slug);
  const currency = useQuery(sessionQuery).data?.preferences.currency ?? "";
  const site = useMemo(() => found && { ...found, currency: found.currency || currency }, [found, currency]);
  return { slug, site, sites };
}
