import type { Schemas } from "../api/client";
import type { FindingName, View } from "../state/view";

type Period = Schemas["PeriodShown"];
export type TopLineProps = {
  site: Schemas["SiteShown"];
  search: View;
  list:
    | {
        period: Period;
        before: Period | null;
        comparison?: Schemas["ComparisonShown"] | null;
        curve_basis?: string;
        curve_sentence?: string;
      }
    | undefined;
  finding?: FindingName; // what is listed; without it, sums are shown and no rows are judged
  change: (part: Partial<View>) => void;
  opened: string | null;
  setOpened: (name: string | null) => void;
};
