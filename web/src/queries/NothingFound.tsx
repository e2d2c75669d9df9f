import type { Schemas } from "../api/client";
import { count } from "../shared/format";
import { Button, Notice } from "../shared/parts";
import type { QueriesSearch } from "../state/search";

type Props = { list: Schemas["Rows"]; search: QueriesSearch; change: (part: Partial<QueriesSearch>) => void };

/** A list without rows says why, and what to try next. */
export function NothingFound({ list, search, change }: Props) {
  const narrowed = search.text || search.above !== undefined || search.below !== undefined;
  if (list.tested === 0) {
    return (
      <Notice
        title="Too little data"
        action={<Button onClick={() => change({ shown: 0 })}>Look at every row, however seldom shown</Button>}
      >
        No row of these days was shown {count(list.min_impressions)} times or more. Choose more days, or lower the
        floor.
      </Notice>
    );
  }
  if (narrowed) {
    return (
      <Notice
        title="Nothing fits these filters"
        action={
          <Button onClick={() => change({ text: undefined, above: undefined, below: undefined })}>Take them off</Button>
        }
      >
        {count(list.in_lens.firm + list.in_lens.likely + list.in_lens.thin)} rows stand in this lens without them.
      </Notice>
    );
  }
  return (
    <Notice
      title="Nothing that could be called a finding"
      action={
        list.in_lens.thin > 0 && (
          <Button onClick={() => change({ evidence: ["firm", "likely", "thin"] })}>
            Show the {count(list.in_lens.thin)} thin rows
          </Button>
        )
      }
    >
      {count(list.tested)} rows were looked at; none differs from the site's curve by more than chance and its usual
      scatter. More days would tell more.
    </Notice>
  );
}
