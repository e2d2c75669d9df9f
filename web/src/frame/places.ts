// The places, in the order of the work, with the digit that opens each.
export const PLACES = [
  { to: "/$site/data", key: "1", name: "Data" },
  { to: "/$site/changes", key: "2", name: "Changes" },
  { to: "/$site/pages", key: "3", name: "Pages" },
  { to: "/$site/queries", key: "4", name: "Queries" },
  { to: "/$site/clashes", key: "5", name: "Clashes" },
  { to: "/$site/on-page", key: "6", name: "On the page" },
  { to: "/$site/links", key: "7", name: "Links" },
  { to: "/$site/topics", key: "8", name: "Topics" },
  { to: "/$site/drafts", key: "9", name: "Drafts" },
  { to: "/$site/moves", key: "0", name: "Moves" },
  { to: "/$site/reports", key: "", name: "Reports" },
] as const;
