// Finished reports: contents, recipients, and whether they were opened.
import { useRef } from "react";

import { FigureTable } from "../shared/FigureTable";
import { count, day, many, moment } from "../shared/format";
import { useKeys } from "../shared/keys";
import { Button, Notice } from "../shared/parts";
import { SplitPane } from "../shared/SplitPane";
import type { ReportsProps } from "./props";
import { ReportFile } from "./ReportFile";
import type { Report } from "./words";

export function MadeReports({ site, stored, search, change }: ReportsProps) {
  const { reports } = stored;
  const chosen = reports.find((one) => one.id === search.report) ?? reports[0];
  const at = chosen ? reports.indexOf(chosen) : -1;
  const list = useRef<HTMLElement>(null);
  const walk = (by: number) => {
    const next = reports[Math.min(Math.max(at + by, 0), reports.length - 1)];
    if (next) change({ report: next.id });
  };
  useKeys({ j: () => walk(1), k: () => walk(-1) });
  if (!chosen)
    return (
      <Notice
        title="No reports yet"
        action={<Button onClick={() => change({ view: "templates" })}>Open templates</Button>}
      >
        A template says what a report holds; a report is made of it when you ask, or every week or month.
      </Notice>
    );
  return (
    <SplitPane
      name="reports-made"
      left={
        <section ref={list} aria-label="Reports" className="h-full overflow-auto px-4 py-2">
          <FigureTable
            rows={reports}
            keyOf={(one) => one.id}
            chosen={(one) => one.id === chosen.id}
            pick={(one) => change({ report: one.id })}
            columns={[
              {
                head: "report",
                cell: (one) => (
                  <button
                    type="button"
                    className="block w-full py-1 text-left"
                    onClick={() => change({ report: one.id })}
                  >
                    <span className="block break-words">{one.title || one.name}</span>
                    <span className="block text-faint text-xs">{one.name}</span>
                  </button>
                ),
              },
              { head: "made", width: "w-24 sm:w-36", left: true, cell: made, look: "py-1.5!" },
              { head: "sent", width: "w-14 sm:w-24", left: true, cell: sent, look: "py-1.5!" },
              { head: "opened", width: "w-13 sm:w-16", cell: (one) => count(opened(one)), look: "py-1.5!" },
            ]}
          />
        </section>
      }
      right={<ReportFile key={chosen.id} site={site} report={chosen} mail={stored.mail} gone={() => change({})} />}
    />
  );
}

const opened = (one: Report) => one.links.reduce((sum, link) => sum + link.opened, 0);

function made(one: Report) {
  if (one.problem) return <span className="text-rust">could not be made</span>;
  if (!one.made_at) return <span className="text-faint">being made</span>;
  return one.due ? `due ${day(one.due)}` : moment(one.made_at);
}

function sent(one: Report) {
  if (one.sendings.length === 0) return <span className="text-faint">–</span>;
  const failed = one.sendings.filter((mail) => mail.state === "failed" || mail.problem).length;
  const went = one.sendings.filter((mail) => mail.state === "sent").length;
  if (failed) return <span className="text-rust">{`${failed} of ${one.sendings.length} failed`}</span>;
  return went === one.sendings.length
    ? `to ${many(went, "person", "people")}`
    : `${count(went)} of ${count(one.sendings.length)}`;
}
