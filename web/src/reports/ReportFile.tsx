// One report: its file, links to its figures row by row, who may read it until when, and its recipients.
import { Link } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { toast } from "sonner";
import { api, type Schemas } from "../api/client";

import { DateField } from "../shared/DateField";
import { Dialog } from "../shared/Dialog";
import { download } from "../shared/export";
import { day, many, moment } from "../shared/format";
import { Part } from "../shared/Part";
import { Button, Field, MainButton, Words } from "../shared/parts";
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
        {report.made_at && ", with the data of that time."}
      </p>
      {report.problem && (
        <p role="alert" className="mt-2 text-rust">
          Failed: {report.problem}
        </p>
      )}
      {report.made_at && (
        <p className="mt-2 flex flex-wrap gap-x-4 gap-y-1 border-rule border-y py-1.5">
          <Button onClick={() => download(`/api/sites/${site.slug}/reports/${report.id}/file`)}>Download (PDF)</Button>
          {site.may_change && <Button onClick={() => setSending(true)}>Send it by mail</Button>}
          {site.may_change && <Button onClick={() => setLinking(true)}>Create link</Button>}
        </p>
      )}
      <Lists site={site} report={report} />
      {report.made_at && <Links site={site} report={report} />}
      {report.sendings.length > 0 && <Mails site={site} report={report} />}
      {site.may_change && (
        <p className="mt-5">
          <Button plain onClick={() => setRemoving(true)}>
            Delete report
          </Button>
        </p>
      )}
      {removing && (
        <Dialog title="Delete the report?" open onOpen={(open) => !open && setRemoving(false)}>
          <p className="mb-3">Its file and all links to it are deleted permanently.</p>
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
    <Part title="Sources of the figures">
      <ul>
        {report.parts.map((one) => {
          const [place, options] = one.list.split("?");
          return (
            <li key={one.name}>
              <Link
                to={`/$site/${place}` as "/$site/changes"}
                params={{ site: site.slug }}
                search={Object.fromEntries(new URLSearchParams(options)) as never}
                className="inline-flex min-h-6 items-center link"
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
      "Link revoked.",
    );
  const copy = async (path: string) => {
    await navigator.clipboard.writeText(`${location.origin}${path}`);
    toast("Link copied.");
  };
  return (
    <Part title="Public links">
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
                {one.state === "waiting" && one.next_at && ` Next attempt ${moment(one.next_at)}.`}
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
          <p className="text-ochre">No mail server: download the file, or ask your administrator to set one up.</p>
        )}
        <Words label="to (mail addresses)" name="recipients" required rows={2} />
        <Words label="message" name="message" rows={4} placeholder="default: the report is attached" />
        <Field
          label="link valid for days (0: no link)"
          name="link_days"
          type="number"
          min={0}
          max={366}
          defaultValue={30}
        />
        <p className="text-faint text-xs">Each recipient gets a separate mail and link.</p>
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
      "Link created. Copy it from the list.",
    );
    if (made) close();
  };
  return (
    <Dialog title="Public link" open onOpen={(open) => !open && close()}>
      <p className="mb-3">Anyone with the link can read this report, and nothing else.</p>
      <DateField label="works until" value={ends_on} onDay={setEnds} min={iso(0)} max={iso(366)} required />
      <p className="mt-4 flex gap-3">
        <MainButton onClick={make}>Make it</MainButton>
        <Button onClick={close}>Cancel</Button>
      </p>
    </Dialog>
  );
}
