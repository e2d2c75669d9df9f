// A report's contents, look, schedule and recipients.
import { ArrowDown, ArrowUp } from "lucide-react";
import type { FormEvent, ReactNode } from "react";
import { toast } from "sonner";
import { api, csrfToken, problemOf, type Schemas } from "../api/client";
import { day } from "../shared/format";
import { Button, Choice, Field, MainButton, Words } from "../shared/parts";
import { useAct } from "../shared/useAct";
import type { ReportsSearch } from "../state/view";
import type { ReportsProps } from "./props";
import { COMPARED, LANGUAGES, PERIODS, SCHEDULES, type Template, type Values, WEEKDAYS } from "./words";

type Form = Required<Values>;
type Props = {
  site: Schemas["SiteShown"];
  stored: ReportsProps["stored"];
  change: (search: ReportsSearch) => void;
  template: Template | undefined;
  added: () => void;
  form: Form;
  setForm: (form: Form) => void;
  seen: number;
  setSeen: (version: number) => void;
};

export function TemplateForm({ site, stored, change, template, added, form, setForm, seen, setSeen }: Props) {
  const act = useAct();
  const set = (part: Partial<Form>) => setForm({ ...form, ...part });
  const params = { path: { slug: site.slug, template_id: template?.id ?? 0 } };

  async function keep(event: FormEvent) {
    event.preventDefault();
    const saved = await act(
      () =>
        template
          ? api.PUT("/api/sites/{slug}/reports/templates/{template_id}", {
              params,
              body: { ...form, seen },
            })
          : api.POST("/api/sites/{slug}/reports/templates", { params: { path: { slug: site.slug } }, body: form }),
      "The template is saved.",
    );
    if (!saved) return;
    setForm({ ...form, recipients: saved.recipients ?? [] });
    setSeen(saved.version);
    added();
    change({ view: "templates", template: saved.id });
  }
  async function make() {
    const made = await act(() =>
      api.POST("/api/sites/{slug}/reports/templates/{template_id}/make", { params, body: { days: "" } }),
    );
    if (made) change({ report: made.id });
  }
  const remove = () =>
    act(
      () => api.DELETE("/api/sites/{slug}/reports/templates/{template_id}", { params }),
      () => {
        toast("Deleted. Its reports stay.", {
          action: {
            label: "Restore",
            onClick: () => act(() => api.POST("/api/sites/{slug}/reports/templates/{template_id}/restore", { params })),
          },
        });
        change({ view: "templates" });
      },
    );
  return (
    <form onSubmit={keep} aria-label="Template" className="h-full overflow-auto px-4 py-3">
      <fieldset disabled={!site.may_change} className="space-y-4">
        <div className="grid grid-cols-2 gap-3">
          <Field
            label="name of the template"
            required
            maxLength={200}
            value={form.name}
            onChange={(event) => set({ name: event.target.value })}
          />
          <Field
            label="title of the report"
            maxLength={300}
            placeholder="default: site and period"
            value={form.title}
            onChange={(event) => set({ title: event.target.value })}
          />
          <Named label="period" names={PERIODS} value={form.period} choose={(period) => set({ period })} />
          <Named label="compared with" names={COMPARED} value={form.compare} choose={(compare) => set({ compare })} />
        </div>
        <Parts titles={stored.parts} form={form} set={set} />
        <Block title="How it looks">
          <div className="grid grid-cols-2 gap-3">
            <Field
              label="footer name"
              maxLength={300}
              placeholder={site.name}
              value={form.own_name}
              onChange={(event) => set({ own_name: event.target.value })}
            />
            <Field
              label="contact"
              maxLength={300}
              value={form.contact}
              onChange={(event) => set({ contact: event.target.value })}
            />
            <Choice
              label="numbers and dates as in"
              value={form.language}
              onChange={(event) => set({ language: event.target.value as Form["language"] })}
            >
              {LANGUAGES.map(([language, words]) => (
                <option key={language} value={language}>
                  {words}
                </option>
              ))}
            </Choice>
            <label className="block">
              <span className="mb-0.5 block text-faint">accent colour</span>
              <input
                type="color"
                className="h-8 w-full border border-strong-rule bg-sheet p-0.5"
                value={form.accent}
                onChange={(event) => set({ accent: event.target.value })}
              />
            </label>
          </div>
          <LogoField slug={site.slug} template={template} />
        </Block>
        <Sending mail={stored.mail} template={template} form={form} set={set} />
        {site.may_change && (
          <p className="flex flex-wrap items-center gap-3 border-rule border-t pt-3">
            <MainButton type="submit" disabled={form.parts.length === 0}>
              {template ? "Save changes" : "Save template"}
            </MainButton>
            {template && <Button onClick={make}>Make a report now</Button>}
            {template && (
              <Button plain onClick={remove}>
                Remove it
              </Button>
            )}
          </p>
        )}
      </fieldset>
    </form>
  );
}

function Block({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="border-rule border-t pt-2">
      <h2 className="mb-1 text-lead">{title}</h2>
      {children}
    </section>
  );
}

type NamedProps<Name extends string> = {
  label: string;
  names: Record<Name, string>;
  value: Name;
  choose: (name: Name) => void;
};

function Named<Name extends string>({ label, names, value, choose }: NamedProps<Name>) {
  return (
    <Choice label={label} value={value} onChange={(event) => choose(event.target.value as Name)}>
      {(Object.entries(names) as [Name, string][]).map(([name, words]) => (
        <option key={name} value={name}>
          {words}
        </option>
      ))}
    </Choice>
  );
}

type Setting = { form: Form; set: (part: Partial<Form>) => void };

/** The parts in order, each with an optional text before it; unused ones below. */
function Parts({ titles, form, set }: Setting & { titles: Record<string, string> }) {
  const { parts } = form;
  const put = (at: number, to: number) => {
    const next = [...parts];
    next.splice(to, 0, ...next.splice(at, 1));
    set({ parts: next });
  };
  const out = Object.keys(titles).filter((name) => !parts.some((one) => one.name === name));
  return (
    <Block title="Contents">
      <ol>
        {parts.map((part, at) => (
          <li key={part.name} className="border-rule border-t py-1 first:border-t-0">
            <div className="flex items-center gap-2">
              <label className="flex min-h-6 flex-1 items-center gap-2">
                <input
                  type="checkbox"
                  checked
                  onChange={() => set({ parts: parts.filter((one) => one.name !== part.name) })}
                />
                {titles[part.name]}
              </label>
              <Button
                plain
                aria-label={`${titles[part.name]}: up`}
                disabled={at === 0}
                onClick={() => put(at, at - 1)}
                className="p-1"
              >
                <ArrowUp size={14} />
              </Button>
              <Button
                plain
                aria-label={`${titles[part.name]}: down`}
                disabled={at === parts.length - 1}
                onClick={() => put(at, at + 1)}
                className="p-1"
              >
                <ArrowDown size={14} />
              </Button>
            </div>
            <details open={part.words !== "" || undefined} className="ml-6">
              <summary className="cursor-pointer text-faint text-xs">introduction (Markdown)</summary>
              <textarea
                aria-label={`introduction of “${titles[part.name]}”`}
                rows={3}
                maxLength={20_000}
                value={part.words}
                onChange={(event) =>
                  set({
                    parts: parts.map((one) => (one.name === part.name ? { ...one, words: event.target.value } : one)),
                  })
                }
                className="mt-1 w-full border border-strong-rule bg-sheet px-2 py-1"
              />
            </details>
          </li>
        ))}
      </ol>
      {out.length > 0 && (
        <p className="mt-1 flex flex-wrap gap-x-4">
          {out.map((name) => (
            <label key={name} className="flex min-h-6 items-center gap-2 text-faint">
              <input
                type="checkbox"
                checked={false}
                onChange={() => set({ parts: [...parts, { name, words: "" }] as Form["parts"] })}
              />
              {titles[name]}
            </label>
          ))}
        </p>
      )}
    </Block>
  );
}

function LogoField({ slug, template }: { slug: string; template: Template | undefined }) {
  const act = useAct();
  if (!template) return <p className="mt-2 text-faint text-xs">Save the template first to add a logo.</p>;
  const address = `/api/sites/${slug}/reports/templates/${template.id}/logo`;
  const send = (file: File | undefined) =>
    file &&
    act(async () => {
      const body = new FormData();
      body.append("file", file);
      const answer = await fetch(address, { method: "POST", body, headers: { "X-CSRFToken": csrfToken() } });
      if (!answer.ok) throw await problemOf(answer);
      return {};
    }, "The logo is saved.");
  const params = { path: { slug, template_id: template.id } };
  return (
    <div className="mt-3 flex flex-wrap items-center gap-3">
      {template.logo && <img src={template.logo} alt="The logo" className="max-h-10 max-w-40 bg-white" />}
      <label className="block">
        <span className="mb-0.5 block text-faint">logo (PNG or SVG)</span>
        <input
          type="file"
          accept="image/png,image/svg+xml"
          onChange={(event) => {
            send(event.target.files?.[0]);
            event.target.value = "";
          }}
        />
      </label>
      {template.logo && (
        <Button
          plain
          onClick={() => act(() => api.DELETE("/api/sites/{slug}/reports/templates/{template_id}/logo", { params }))}
        >
          No logo
        </Button>
      )}
    </div>
  );
}

function Sending({ mail, template, form, set }: Setting & { mail: boolean; template: Template | undefined }) {
  return (
    <Block title="Schedule and recipients">
      <div className="grid grid-cols-2 gap-3">
        <Named
          label="make it"
          names={SCHEDULES}
          value={form.schedule}
          choose={(schedule) => set({ schedule, day: 1 })}
        />
        {form.schedule === "weekly" && (
          <Choice label="on" value={form.day} onChange={(event) => set({ day: Number(event.target.value) })}>
            {WEEKDAYS.map((name, at) => (
              <option key={name} value={at + 1}>
                {name}
              </option>
            ))}
          </Choice>
        )}
        {form.schedule === "monthly" && (
          <Field
            label="on day of the month (1 to 28)"
            type="number"
            min={1}
            max={28}
            value={form.day}
            onChange={(event) => set({ day: Number(event.target.value) || 1 })}
          />
        )}
      </div>
      {form.schedule && (
        <div className="mt-3 space-y-3">
          {!mail && (
            <p className="text-ochre">
              No mail server: reports are made but not sent. Ask your administrator to set one up.
            </p>
          )}
          <Words
            label="recipients (mail addresses, one a line)"
            rows={2}
            value={form.recipients.join("\n")}
            onChange={(event) => set({ recipients: event.target.value.split("\n") })}
          />
          <Words
            label="message"
            rows={2}
            placeholder="default: the report is attached"
            value={form.message}
            onChange={(event) => set({ message: event.target.value })}
          />
          <Field
            label="link valid for days (0: no link)"
            type="number"
            min={0}
            max={366}
            value={form.link_days}
            onChange={(event) => set({ link_days: Number(event.target.value) || 0 })}
          />
          {template?.next_due && <p className="text-faint">Next on {day(template.next_due)}.</p>}
        </div>
      )}
    </Block>
  );
}
