// Labels of sources, fields and states in Data.
import type { Schemas } from "../api/client";

export type Source = Schemas["SourceLoaded"]["source"];

export const SOURCES: Record<Source, { name: string; holds: string }> = {
  search: { name: "Search data", holds: "clicks, impressions and position by day, page and query" },
  visits: { name: "Visits", holds: "sessions, bounces, conversions by day, landing page and channel" },
  crawl: { name: "Crawl", holds: "the text and links of each page" },
  links: { name: "Links from other sites", holds: "who links to which page, with which anchor text" },
  volumes: { name: "Search volumes", holds: "monthly searches and price per click by query" },
  results: { name: "SERP captures", holds: "the SERP of a query, from top to bottom" },
  strengths: { name: "Links to any page", holds: "referring domains and links of any page, yours or competitors'" },
  "page-queries": { name: "Queries of any page", holds: "which queries bring competing pages visits" },
  "page-links": { name: "Links within the site", holds: "which page links to which, with anchor text and location" },
  above: { name: "Competing pages", holds: "the text of competing pages" },
  events: { name: "Dated events", holds: "updates, releases, campaigns" },
};

const FIELD_WORDS: Record<string, string> = {
  ctr: "CTR, to check",
  engaged: "engaged sessions",
  bounce_rate: "bounce rate",
  mean_seconds: "seconds a session",
  network_address: "network address (to leave out own visits)",
  redirect_to: "redirect to",
  main_text: "main text",
  from_address: "linking page",
  first_seen: "first seen",
  last_seen: "last seen",
  price_per_click: "price per click",
  first_day: "first day",
  last_day: "last day",
};
export const fieldWord = (name: string) => FIELD_WORDS[name] ?? name;
