// The places, in the order of the work.
export const PLACES = [
  { to: "/$site/intake", key: "1", name: "Intake" },
  { to: "/$site/standing", key: "2", name: "Standing" },
  { to: "/$site/pages", key: "3", name: "Pages" },
  { to: "/$site/queries", key: "4", name: "Queries" },
  { to: "/$site/clashes", key: "5", name: "Clashes" },
  { to: "/$site/wording", key: "6", name: "Wording" },
  { to: "/$site/links", key: "7", name: "Links" },
  { to: "/$site/topics", key: "8", name: "Topics" },
  { to: "/$site/drafts", key: "9", name: "Drafts" },
  { to: "/$site/moves", key: "0", name: "Moves" },
  { to: "/$site/reports", key: "", name: "Reports" },
] as const;
