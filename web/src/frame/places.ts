// The places of a site, as their routes declare them.
import { useMatches, useRouter } from "@tanstack/react-router";
import { useMemo } from "react";

declare module "@tanstack/react-router" {
  interface StaticDataRouteOption {
    place?: { name: string; key: string; group: Group }; // in the menu, opened by the digit, if any; the order is that of the routes
    guide?: string; // the page of the guide
  }
}

type Group = "" | "understand" | "improve" | "follow up";
export type Place = { to: "/$site/data"; name: string; key: string; group: Group };

export function usePlaces(): Place[] {
  const { routesById } = useRouter();
  return useMemo(
    () =>
      Object.values(routesById).flatMap((route) => {
        const place = route.options.staticData?.place;
        // Every place is below a site and needs no search; they all have the type of this one.
        return place ? [{ to: route.fullPath as "/$site/data", ...place }] : [];
      }),
    [routesById],
  );
}

/** The page of the guide for what is open. */
export const useGuide = () =>
  useMatches({ select: (matches) => matches.findLast((one) => one.staticData.guide)?.staticData.guide }) ??
  "first-hour";
