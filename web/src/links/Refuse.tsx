// Dismissing links needs a reason, so they are not suggested again; the last one is filled in.
import { type FormEvent, useId } from "react";
import type { Schemas } from "../api/client";
import { Dialog } from "../shared/Dialog";
import { path } from "../shared/format";
import { Field, MainButton } from "../shared/parts";
import { type Suggestion, useLinking } from "./useLinking";

const REASONS = [
  "different subject",
  "the sentence does not fit",
  "that page has enough links",
  "the page will be removed",
];
const LAST = "zugzwang-link-refused";

type Props = { site: Schemas["SiteShown"]; links: Suggestion[]; close: () => void; done?: () => void };

export function Refuse({ site, links, close, done }: Props) {
  const decide = useLinking(site.slug);
  const list = useId();
  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const note = String(new FormData(event.currentTarget).get("note") ?? "").trim();
    localStorage.setItem(LAST, note);
    if (await decide(links, "refused", note)) {
      close();
      done?.();
    }
  }
  const [one] = links;
  const name = links.length === 1 && one ? `${path(one.from)} → ${path(one.to)}` : `${links.length} links`;
  return (
    <Dialog title="Refuse" open onOpen={(open) => !open && close()}>
      <p className="mb-2 break-words font-medium">{name}</p>
      <form onSubmit={submit} className="space-y-3">
        <Field
          label="why"
          name="note"
          required
          maxLength={500}
          list={list}
          defaultValue={localStorage.getItem(LAST) ?? REASONS[0]}
          onFocus={(event) => event.currentTarget.select()}
        />
        <datalist id={list}>
          {REASONS.map((reason) => (
            <option key={reason} value={reason} />
          ))}
        </datalist>
        <MainButton type="submit">Refuse</MainButton>
      </form>
    </Dialog>
  );
}
