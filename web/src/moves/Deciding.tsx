// Decide at the end of every look: make a move (m), dismiss with a reason (x), snooze until a day (s). The decision stays
// visible here and on the row.
import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";
import { toast } from "sonner";
import { type Mark, useMarks } from "../api/ask";
import type { Schemas } from "../api/client";
import { type Subject, useMarked } from "../listing/marked";
import { EvidenceHead } from "../shared/EvidenceHead";
import { day } from "../shared/format";
import { Button } from "../shared/parts";
import type { ViewOptions } from "../state/view";
import type { Found } from "./MakeMove";
import { MarkWord } from "./MarkWord";
import { useDeciding } from "./useDeciding";
import { useTakeBack } from "./useTakeBack";

type Props = {
  site: Schemas["SiteShown"];
  subject: Subject;
  finding: Found;
  name: string;
  options: ViewOptions;
  instead?: () => void; // the action of m where moves have their own form
  named?: true; // the subject is not named above
  more?: ReactNode; // other actions
};

const ROWS_SHOWN = 2; // for a page; its file lists all decisions

export function Deciding({ site, subject, named, more, ...rest }: Props) {
  const marks = useMarks(site.slug);
  const mark = marks.of(subject);
  const onRows = subject.page != null && subject.query == null ? marks.onRowsOf(subject.page) : [];
  const marked = useMarked();
  const ofClash = subject.page == null; // clashes have their own form
  const { buttons, dialog } = useDeciding({ ...rest, site, subjects: [subject], silent: Boolean(marked?.keys.size) });
  if (!site.may_change && !mark && onRows.length === 0) return null;
  return (
    <div data-testid="deciding" className="contents">
      <EvidenceHead name={rest.name} named={named === true}>
        {buttons}
        {more}
        {dialog}
      </EvidenceHead>
      {mark && !(ofClash && mark.decision && !mark.until) && (
        <Decided slug={site.slug} mark={mark} may={site.may_change} />
      )}
      {onRows.slice(0, ROWS_SHOWN).map((one) => (
        <Decided key={one.query} slug={site.slug} mark={one} may={site.may_change} named />
      ))}
      {onRows.length > ROWS_SHOWN && (
        <p className="w-full text-faint">and {onRows.length - ROWS_SHOWN} more of its queries: see Decisions.</p>
      )}
    </div>
  );
}

function Decided({ slug, mark, may, named }: { slug: string; mark: Mark; may: boolean; named?: true }) {
  const takeBack = useTakeBack(slug);
  const { decision } = mark;
  return (
    <p className="mt-1.5 w-full">
      <MarkWord mark={mark} /> {named && <span className="font-medium">“{mark.query_text}” </span>}
      {mark.until && <span>{mark.move ? `due ${day(mark.until)}` : `until ${day(mark.until)}`} </span>}
      {mark.why && <span>– {mark.why} </span>}
      {mark.by && <span className="text-faint">({mark.by}) </span>}
      {mark.move !== null ? (
        <Link to="/$site/moves" params={{ site: slug }} search={{ row: String(mark.move) }} className="link">
          Open the move
        </Link>
      ) : (
        may &&
        decision !== null && (
          <Button
            plain
            onClick={() => takeBack.decisions([{ id: decision }]).then((done) => done && toast("Restored."))}
          >
            Reopen
          </Button>
        )
      )}
    </p>
  );
}
