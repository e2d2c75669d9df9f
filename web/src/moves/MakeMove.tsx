// A move on a row, page or clash, or one for each of several: filled in, to save as it is or change.
import { type FormEvent, useState } from "react";
import { toast } from "sonner";
import { ask, usePeople } from "../api/ask";
import { api, type Schemas } from "../api/client";
import type { Subject } from "../listing/marked";
import { DateField } from "../shared/DateField";
import { Dialog } from "../shared/Dialog";
import { EvidenceMark } from "../shared/EvidenceMark";
import { count } from "../shared/format";
import { Choice, Failed, MainButton, Words } from "../shared/parts";
import { useAct } from "../shared/useAct";
import type { ViewOptions } from "../state/view";
import { useTakeBack } from "./useTakeBack";
import { EFFORTS } from "./words";

export type Found = Schemas["FindingParameters"]["finding"];
export type DecidingOn = { subjects: Subject[]; name: string; close: () => void; done?: () => void };
type Snippet = { title: string; description: string };
type Props = DecidingOn & { site: Schemas["SiteShown"]; finding: Found; options: ViewOptions; snippet?: Snippet };

export function MakeMove({ site, subjects, finding, name, options, snippet, close, done }: Props) {
  const query = { ...options, finding };
  const proposal = ask.useQuery(
    "post",
    "/api/sites/{slug}/moves/proposal",
    { params: { path: { slug: site.slug }, query }, body: { subjects } },
    { staleTime: 60_000 },
  );
  const act = useAct();
  const takeBack = useTakeBack(site.slug);
  const [busy, setBusy] = useState(false);
  const [kind, setKind] = useState<string>();
  const path = { slug: site.slug };

  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = Object.fromEntries(new FormData(event.currentTarget)) as Record<string, string>;
    const body = {
      subjects,
      kind: (form.kind || null) as Schemas["MovesInput"]["kind"],
      effort: (form.effort || null) as Schemas["MovesInput"]["effort"],
      note: form.note ?? "",
      who: form.who || null,
      due: form.due || null,
      new_title: snippet?.title ?? "",
      new_description: snippet?.description ?? "",
    };
    setBusy(true);
    const saved = await act(
      () => api.POST("/api/sites/{slug}/moves", { params: { path, query }, body }),
      (made) =>
        toast(made.length === 1 ? "Move made." : `${made.length} moves made.`, {
          action: { label: "Undo", onClick: () => takeBack.moves(made) },
        }),
    );
    setBusy(false);
    if (saved) {
      close();
      done?.();
    }
  }

  const answer = proposal.data;
  return (
    <Dialog
      title={subjects.length === 1 ? "Make a move" : `Make ${subjects.length} moves`}
      open
      onOpen={(open) => !open && close()}
    >
      <p className="mb-2 break-words font-medium">{name}</p>
      {proposal.error && <Failed error={proposal.error} retry={() => proposal.refetch()} />}
      {!answer && !proposal.error && <p className="text-faint">Estimating the gain…</p>}
      {answer && (
        <form onSubmit={submit} className="space-y-3">
          <p className="font-serif text-lead">{answer.reason}</p>
          {answer.gain !== null && (
            <p>
              Expected{answer.subjects > 1 && " together"}: about {count(answer.gain)} clicks a month, by a cautious
              estimate {count(answer.gain_cautious)} <EvidenceMark grade={answer.evidence} />
            </p>
          )}
          {snippet && (
            <dl className="border-rule border-y py-1.5">
              <dt className="text-faint text-xs">title</dt>
              <dd className="break-words">{snippet.title}</dd>
              <dt className="text-faint text-xs">description</dt>
              <dd className="break-words">{snippet.description}</dd>
            </dl>
          )}
          <Choice
            label="what to do"
            name="kind"
            defaultValue={answer.kind ?? ""}
            onChange={(event) => setKind(event.target.value)}
          >
            {answer.kind === null && <option value="">as proposed for each</option>}
            {Object.entries(answer.kinds).map(([kind, words]) => (
              <option key={kind} value={kind}>
                {words}
                {kind === answer.kind ? " (proposed)" : ""}
              </option>
            ))}
          </Choice>
          {answer.worked[kind ?? answer.kind ?? ""] && (
            <p className="text-faint">{answer.worked[kind ?? answer.kind ?? ""]}</p>
          )}
          <HowAndWho slug={site.slug} effort={answer.effort} />
          <Words label="note: what exactly, and why" name="note" />
          <MainButton type="submit" disabled={busy} autoFocus>
            {answer.subjects > 1 ? "Save moves" : "Save move"}
          </MainButton>
        </form>
      )}
    </Dialog>
  );
}

/** Effort, assignee, due day. */
export function HowAndWho({ slug, effort }: { slug: string; effort: Schemas["Proposal"]["effort"] }) {
  const people = usePeople(slug);
  return (
    <div className="grid grid-cols-3 gap-3">
      <Choice label="effort" name="effort" defaultValue={effort ?? ""}>
        {effort === null && <option value="">as usual</option>}
        {Object.entries(EFFORTS).map(([hours, words]) => (
          <option key={hours} value={hours}>
            {words}
          </option>
        ))}
      </Choice>
      <Choice label="who" name="who" defaultValue="">
        <option value="">no one yet</option>
        {people.map((person) => (
          <option key={person}>{person}</option>
        ))}
      </Choice>
      <DateField label="due" name="due" />
    </div>
  );
}
