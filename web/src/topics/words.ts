// Words for seasonality and intent.
import type { Row } from "../api/ask";

export const MONTHS = [
  "January",
  "February",
  "March",
  "April",
  "May",
  "June",
  "July",
  "August",
  "September",
  "October",
  "November",
  "December",
] as const;

export const WANTS: Record<NonNullable<Row<"topics">["intent"]>, string> = {
  informational: "to know",
  navigational: "one particular site",
  transactional: "to buy or do something",
  local: "something near",
  comparing: "to compare",
};
