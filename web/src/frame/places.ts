// The places, in the order of work: the digit that opens each, and its page of the guide.
export const PLACES = [
  { to: "/$site/data", key: "1", name: "Data", guide: "first-hour" },
  { to: "/$site/changes", key: "2", name: "Changes", guide: "monthly-review" },
  { to: "/$site/pages", key: "3", name: "Pages", guide: "monthly-review" },
  { to: "/$site/queries", key: "4", name: "Queries", guide: "low-ctr" },
  { to: "/$site/clashes", key: "5", name: "Clashes", guide: "cannibalisation" },
  { to: "/$site/on-page", key: "6", name: "On the page", guide: "planning-content" },
  { to: "/$site/links", key: "7", name: "Links", guide: "internal-links" },
  { to: "/$site/topics", key: "8", name: "Topics", guide: "planning-content" },
  { to: "/$site/drafts", key: "9", name: "Drafts", guide: "planning-content" },
  { to: "/$site/moves", key: "0", name: "Moves", guide: "running-a-test" },
  { to: "/$site/reports", key: "", name: "Reports", guide: "reporting" },
] as const;

const OTHERS: Record<string, string> = { "data/cleaning": "cleaning-data", people: "administering", query: "low-ctr" };

/** The page of the guide for an address of the application, such as "/shop/queries". */
export function guideOf(pathname: string): string {
  const [, , ...rest] = pathname.split("/");
  const place = PLACES.find((one) => one.to === `/$site/${rest[0]}`);
  return OTHERS[rest.join("/")] ?? place?.guide ?? "first-hour";
}
