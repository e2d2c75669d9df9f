// One report: its file, where its figures stand row by row, who may read it until when, and to whom it was sent.
import { Link } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { toast } from "sonner";
import { api, type Schemas } from "../api/client";

import { DateField } from "../shared/DateField";
import { download } from "../shared/export";
import { day, many, moment } from "../shared/format";
import { Part } from "../shared/Part";
import { Button, Dialog, Field, MainButton, Words } from "../shared/parts";
import { useAct } from "../shared/useAct";
import type { Report } from "./words";

type Props = { site: Schemas["SiteShown"]; report: Report; mail: boolean; gone: () => void };
const DAY = 86_400_000;

export function ReportFile({ site, report, mail, gone }: Props) {
  const act = useAct();
  const [sending, setSending] = useState(false);
  const [linking, setLinking] = useState(false);
  const [removing, setRemoving] = useState(false);
  const params = { path: { slug: site.slug, report_id: report.id } };
  const remove = async () => {
    if (await act(() => api.DELETE("/api/sites/{slug}/reports/{report_id}", { params }).then(() => ({ data: true }))))
      gone();
  };
  return (
    <article aria-label="Report" className="px-5 py-3" data-testid="report-file">
      <h2 className="break-words text-xl leading-6">{report.title || report.name}</h2>
      <p className="text-faint">
        {report.first && report.last && `${day(report.first)} to ${day(report.last)}. `}
        {report.made_at && `Made ${moment(report.made_at)}${report.by ? ` by ${report.by}` : ""}`}
        {report.due && `, due ${day(report.due)}`}
        {report.made_at && ", of the data as they were then."}
      </p>
      {report.problem && (
        <p role="alert" className="mt-2 text-rust">
          It could not be made: {report.problem}
        </p>
      )}
      {report.made_at && (
        <p className="mt-2 flex flex-wrap gap-x-4 gap-y-1 border-rule border-y py-1.5">
          <Button onClick={() => download(`/api/sites/${site.slug}/reports/${report.id}/file`)}>Download (PDF)</Button>
          {site.may_change && <Button onClick={() => setSending(true)}>Send it by mail</Button>}
          {site.may_change && <Button onClick={() => setLinking(true)}>Make a link to read it</Button>}
        </p>
      )}
      <Lists site={site} report={report} />
      {report.made_at && <Links site={site} report={report} />}
      {report.sendings.length > 0 && <Mails site={site} report={report} />}
      {site.may_change && (
        <p className="mt-5">
          <Button plain onClick={() => setRemoving(true)}>
            Remove this report
          </Button>
        </p>
      )}
      {removing && (
        <Dialog title="Remove the report?" open onOpen={(open) => !open && setRemoving(false)}>
          <p className="mb-3">Its file goes for good, and whoever has a link to it can read it no more.</p>
          <p className="flex gap-3">
            <MainButton onClick={remove}>Remove it</MainButton>
            <Button onClick={() => setRemoving(false)}>Cancel</Button>
          </p>
        </Dialog>
      )}
      {sending && <SendDialog site={site} report={report} mail={mail} close={() => setSending(false)} />}
      {linking && <LinkDialog site={site} report={report} close={() => setLinking(false)} />}
    </article>
  );
}

function Lists({ site, report }: { site: Schemas["SiteShown"]; report: Report }) {
  if (report.parts.length === 0) return null;
  return (
    <Part title="Where its figures come from">
      <ul>
        {report.parts.map((one) => {
          const [place, asked] = one.list.split("?");
          return (
            <li key={one.name}>
              <Link
                to={`/$site/${place}` as "/$site/changes"}
                params={{ site: site.slug }}
                search={Object.fromEntries(new URLSearchParams(asked)) as never}
                className="inline-flex min-h-6 items-center underline decoration-rule underline-offset-3 hover:decoration-ink"
              >
                {one.title}
              </Link>
            </li>
          );
        })}
      </ul>
      <p className="text-faint text-xs">The lists show the data as they are now.</p>
    </Part>
  );
}

function Links({ site, report }: { site: Schemas["SiteShown"]; report: Report }) {
  const act = useAct();
  const end = (link_id: number) =>
    act(
      () =>
        api
          .DELETE("/api/sites/{slug}/reports/links/{link_id}", { params: { path: { slug: site.slug, link_id } } })
          .then(() => ({ data: true })),
      "The link works no more.",
    );
  const copy = async (path: string) => {
    await navigator.clipboard.writeText(`${location.origin}${path}`);
    toast("The address is copied.");
  };
  return (
    <Part title="Links to read it without signing in">
      {report.links.length === 0 && <p className="text-faint">None yet.</p>}
      <ul>
        {report.links.map((one) => (
          <li key={one.id} className="flex flex-wrap items-baseline gap-x-3 border-rule border-t py-1 first:border-t-0">
            <span className={one.ended ? "text-faint" : ""}>
              {one.ended ? "ended" : `until ${day(one.ends_on)}`}
              {one.recipient && `, in the mail to ${one.recipient}`}; {openings(one)}
            </span>
            {one.path && (
              <span className="ml-auto flex gap-x-3">
                <a
                  href={one.path}
                  target="_blank"
                  rel="noreferrer"
                  className="inline-flex min-h-6 items-center underline"
                >
                  Open
                </a>
                <Button plain className="min-h-6" onClick={() => copy(one.path)}>
                  Copy
                </Button>
                {site.may_change && (
                  <Button plain className="min-h-6" onClick={() => end(one.id)}>
                    End it
                  </Button>
                )}
              </span>
            )}
          </li>
        ))}
      </ul>
    </Part>
  );
}

function openings({ opened, opened_at }: Report["links"][number]): string {
  if (!opened || !opened_at) return "not opened yet";
  return `opened ${many(opened, "time")}, last ${moment(opened_at)}`;
}

const MAIL = { waiting: "on its way", sent: "sent", failed: "not sent" };

function Mails({ site, report }: { site: Schemas["SiteShown"]; report: Report }) {
  const act = useAct();
  const again = (mail_id: number) =>
    act(() =>
      api.POST("/api/sites/{slug}/reports/mails/{mail_id}/again", { params: { path: { slug: site.slug, mail_id } } }),
    );
  return (
    <Part title="Mails">
      <ul>
        {report.sendings.map((one) => (
          <li key={one.id} className="border-rule border-t py-1 first:border-t-0">
            <span className="break-all">{one.recipient}</span>:{" "}
            <span className={one.state === "failed" ? "text-rust" : ""}>{MAIL[one.state]}</span>
            {one.sent_at && ` ${moment(one.sent_at)}`}
            {one.problem && (
              <span className="block text-rust text-xs">
                {one.problem}
                {one.state === "waiting" && one.next_at && ` Tried again ${moment(one.next_at)}.`}
              </span>
            )}
            {one.state === "failed" && site.may_change && (
              <Button plain className="min-h-6" onClick={() => again(one.id)}>
                Send again
              </Button>
            )}
          </li>
        ))}
      </ul>
    </Part>
  );
}

function SendDialog({ site, report, mail, close }: Omit<Props, "gone"> & { close: () => void }) {
  const act = useAct();
  const params = { path: { slug: site.slug, report_id: report.id } };
  async function send(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const body = {
      recipients: String(form.get("recipients"))
        .split(/[\s,;]+/)
        .filter(Boolean),
      message: String(form.get("message")),
      link_days: Number(form.get("link_days")),
    };
    if (await act(() => api.POST("/api/sites/{slug}/reports/{report_id}/send", { params, body }), "It is on its way."))
      close();
  }
  return (
    <Dialog title="Send the report by mail" open onOpen={(open) => !open && close()}>
      <form onSubmit={send} className="space-y-3">
        {!mail && (
          <p className="text-ochre">
            No mail server is set up here. Whoever runs this installation can set one up; until then, download the file.
          </p>
        )}
        <Words label="to (mail addresses)" name="recipients" required rows={2} />
        <Words
          label="what the mail says"
          name="message"
          rows={4}
          placeholder="that the report is attached, if left empty"
        />
        <Field
          label="days for which the link in it works (0: no link)"
          name="link_days"
          type="number"
          min={0}
          max={366}
          defaultValue={30}
        />
        <p className="text-faint text-xs">Each person gets a mail and a link of their own.</p>
        <p className="flex gap-3">
          <MainButton type="submit" disabled={!mail}>
            Send it
          </MainButton>
          <Button onClick={close}>Cancel</Button>
        </p>
      </form>
    </Dialog>
  );
}

function LinkDialog({ site, report, close }: Pick<Props, "site" | "report"> & { close: () => void }) {
  const act = useAct();
  const iso = (ahead: number) => new Date(Date.now() + ahead * DAY).toISOString().slice(0, 10);
  const [ends_on, setEnds] = useState(iso(30));
  const params = { path: { slug: site.slug, report_id: report.id } };
  const make = async () => {
    const made = await act(
      () => api.POST("/api/sites/{slug}/reports/{report_id}/links", { params, body: { ends_on } }),
      "The link is made. Copy it from the list.",
    );
    if (made) close();
  };
  return (
    <Dialog title="A link to read it" open onOpen={(open) => !open && close()}>
      <p className="mb-3">Whoever has the address reads this report without signing in, and nothing else.</p>
      <DateField label="works until" value={ends_on} onDay={setEnds} min={iso(0)} max={iso(366)} required />
      <p className="mt-4 flex gap-3">
        <MainButton onClick={make}>Make it</MainButton>
        <Button onClick={close}>Cancel</Button>
      </p>
    </Dialog>
  );
}
