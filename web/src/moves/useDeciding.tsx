// The three decisions – m, x, s – and their dialogs.
import { type ComponentProps, type ReactNode, useState } from "react";
import { useKeys } from "../shared/keys";
import { Button } from "../shared/parts";
import { MakeMove } from "./MakeMove";
import { Snooze } from "./Snooze";

type Way = "move" | "dismiss" | "snooze";
// `instead`: the action of m where moves have their own form; `silent`: the keys belong to something else.
type On = Omit<ComponentProps<typeof MakeMove>, "close"> & {
  silent?: boolean;
  instead?: () => void;
  closed?: () => void;
};

/** Buttons of the three decisions for some subjects, with their keys; and the open dialog. */
export function useDeciding({ silent, instead, closed, ...on }: On): { buttons: ReactNode; dialog: ReactNode } {
  const [way, setWay] = useState<Way | null>(null);
  const move = instead ?? (() => setWay("move"));
  const keys = { m: move, x: () => setWay("dismiss"), s: () => setWay("snooze") };
  useKeys(on.site.may_change && !silent ? keys : {});
  const close = () => {
    setWay(null);
    closed?.();
  };
  const several = on.subjects.length > 1;
  return {
    buttons: on.site.may_change && (
      <>
        <Button onClick={move} title="Make a move (m)">
          {several ? "Make moves" : "Make a move"}
        </Button>
        <Button onClick={keys.x} title="Dismiss (x)">
          Dismiss
        </Button>
        <Button onClick={keys.s} title="Snooze until a day (s)">
          Snooze
        </Button>
      </>
    ),
    dialog:
      way === "move" ? (
        <MakeMove {...on} close={close} />
      ) : (
        way && <Snooze {...on} slug={on.site.slug} way={way} close={close} />
      ),
  };
}
