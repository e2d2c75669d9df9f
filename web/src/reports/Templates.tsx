// Templates: edit one on the left, with a preview of its pages on the right.
import { useState } from "react";
import { Button, Notice } from "../shared/parts";
import { SplitPane } from "../shared/SplitPane";
import { Preview } from "./Preview";
import type { ReportsProps } from "./props";
import { TemplateForm } from "./TemplateForm";
import { blank, type Values, written } from "./words";

export function Templates(props: ReportsProps) {
  const { site, stored, search, change } = props;
  const template = stored.templates.find((one) => one.id === search.template) ?? stored.templates[0];
  const [adding, setAdding] = useState(false);
  const fresh = adding || !template;
  if (fresh && !site.may_change && !template)
    return <Notice title="No templates yet">Ask an analyst of the site to create one.</Notice>;
  const key = fresh ? "new" : `${template.id}`;
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-rule border-b px-4 py-1.5">
        {stored.templates.map((one) => (
          <button
            key={one.id}
            type="button"
            aria-pressed={!fresh && one.id === template?.id}
            onClick={() => {
              setAdding(false);
              change({ view: "templates", template: one.id });
            }}
            className={`max-w-64 truncate border-b-2 ${!fresh && one.id === template?.id ? "border-ink font-semibold" : "border-transparent text-faint hover:text-ink"}`}
          >
            {one.name}
          </button>
        ))}
        {site.may_change && (
          <Button plain onClick={() => setAdding(true)} disabled={fresh}>
            New template
          </Button>
        )}
      </div>
      <Chosen key={key} {...props} template={fresh ? undefined : template} added={() => setAdding(false)} />
    </div>
  );
}

type ChosenProps = ReportsProps & {
  template: ReportsProps["stored"]["templates"][number] | undefined;
  added: () => void;
};

function Chosen({ site, stored, change, template, added }: ChosenProps) {
  const [form, setForm] = useState<Required<Values>>(() =>
    template ? written(template) : blank(stored.templates.length ? "" : "Monthly report", Object.keys(stored.parts)),
  );
  // Others' changes are not overwritten: the save names the version that this form started from.
  const [seen, setSeen] = useState(template?.version ?? 0);
  return (
    <SplitPane
      name="reports"
      left={<TemplateForm {...{ site, stored, change, template, added, form, setForm, seen, setSeen }} />}
      right={<Preview site={site} form={form} id={template?.id} logo={template?.logo ?? ""} />}
    />
  );
}
