import type { Schemas } from "../api/client";
import type { ReportsSearch } from "../state/view";

export type ReportsProps = {
  site: Schemas["SiteShown"];
  stored: Schemas["ReportsShown"];
  search: ReportsSearch;
  change: (search: ReportsSearch) => void;
};
