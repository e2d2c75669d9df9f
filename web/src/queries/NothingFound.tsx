import type { Answer } from "../api/ask";
import { NOUNS } from "../listing/LensHead";
import { count } from "../shared/format";
import { Button, Notice } from "../shared/parts";
import { GRADES, type ListSearch } from "../state/view";

type Props = { list: Answer<"low-ctr">; search: ListSearch; change: (part: Partial<ListSearch>) => void };

/** A list without rows explains why, and what to try next. */
export function NothingFound({ list, search, change }: Props) {
  const [one, several] = NOUNS[list.by];
  const narrowed = search.text || search.position_from !== undefined || search.position_to !== undefined;
  if (list.tested === 0) {
    return (
      <Notice
        title="Too little data"
        action={
          <Button onClick={() => change({ min_impressions: 0 })}>
            Look at every {one}, with any number of impressions
          </Button>
        }
      >
        No {one} of this period had {count(list.min_impressions)} impressions or more. Choose a longer period, or lower
        the minimum.
      </Notice>
    );
  }
  if (narrowed) {
    return (
      <Notice
        title="No matches"
        action={
          <Button onClick={() => change({ text: undefined, position_from: undefined, position_to: undefined })}>
            Remove them
          </Button>
        }
      >
        {count(Object.values(list.in_lens).reduce((sum, one) => sum + one, 0))} {several} are in this list without them.
      </Notice>
    );
  }
  return (
    <Notice
      title="No findings"
      action={
        (list.in_lens.possible ?? 0) > 0 && (
          <Button onClick={() => change({ evidence: GRADES })}>
            Show the {count(list.in_lens.possible)} possible {several}
          </Button>
        )
      }
    >
      None of these {several} differs from expected clicks by more than chance. {list.noticed} Choose more days to see
      more.
    </Notice>
  );
}
