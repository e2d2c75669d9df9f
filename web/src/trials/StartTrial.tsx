// Planning a test: the smallest detectable effect appears while one chooses, and changes with every choice.
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { ask, ofSite } from "../api/ask";
import { api, ProblemError, type Schemas, values } from "../api/client";
import type { Subject } from "../listing/marked";
import { DateField } from "../shared/DateField";
import { Dialog } from "../shared/Dialog";
import { Button, Choice, Field, MainButton, Words } from "../shared/parts";
import { useAct } from "../shared/useAct";
import { DESIGNS, MEASURES } from "./words";

type Values = Schemas["TrialInput"];
type Plan = Required<Pick<Values, "kind" | "design" | "measure" | "first_day" | "weeks">>;
type Props = { site: Schemas["SiteShown"]; subjects: Subject[]; name: string; close: () => void; done?: () => void };
const PAIRS_LEAST = 12;

export function StartTrial({ site, subjects, name, close, done }: Props) {
  const act = useAct();
  const navigate = useNavigate();
  const kinds = ask.useQuery("post", "/api/sites/{slug}/moves/proposal", {
    ...ofSite(site.slug),
    body: { subjects: subjects.slice(0, 1) },
  }).data?.kinds;
  const [plan, setPlan] = useState<Plan>({
    kind: "rewrite",
    design: subjects.length >= PAIRS_LEAST ? "randomised" : "before-after",
    measure: "clicks",
    first_day: new Date().toISOString().slice(0, 10),
    weeks: 4,
  });
  // One seed for plan and test, so the preview matches the draw.
  const [seed] = useState(() => Math.floor(Math.random() * 2 ** 31));
  const options: Values = { ...plan, subjects, seed, change: "", name: "", hope: "" };
  const answer = useQuery({
    queryKey: ["trial-plan", site.slug, options],
    queryFn: async () =>
      values(await api.POST("/api/sites/{slug}/trials/plan", { ...ofSite(site.slug), body: options })),
    retry: false,
    placeholderData: (before) => before,
  });

  async function start(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const body = {
      ...options,
      name: String(form.get("name")),
      change: String(form.get("change")),
      hope: String(form.get("hope")),
    };
    const made = await act(
      () => api.POST("/api/sites/{slug}/trials", { ...ofSite(site.slug), body }),
      "The trial is saved.",
    );
    if (!made) return;
    close();
    done?.();
    navigate({
      to: "/$site/moves",
      params: { site: site.slug },
      search: { finding: "trials", row: String(made.id) } as never,
    });
  }

  const set = (part: Partial<Plan>) => setPlan({ ...plan, ...part });
  const problems = answer.error instanceof ProblemError ? [answer.error.message] : (answer.data?.problems ?? []);
  return (
    <Dialog title="Start a trial" open onOpen={(open) => !open && close()}>
      <p className="mb-2 break-words font-medium">{name}</p>
      <form onSubmit={start} className="space-y-3">
        <Words label="what you change" name="change" required rows={2} />
        <PlanFields plan={plan} set={set} kinds={kinds} />
        <div role="status" aria-live="polite" className="border-ink border-y py-2">
          <p className={`font-serif text-lead ${answer.isFetching ? "opacity-60" : ""}`}>
            {answer.data?.sentence ?? "Calculating the smallest detectable effect…"}
          </p>
          {answer.data?.worked && <p className="text-faint">{answer.data.worked}</p>}
          {problems.map((one) => (
            <p key={one} className="text-rust">
              {one}
            </p>
          ))}
        </div>
        <Field label="goal" name="hope" />
        <Field label="name" name="name" placeholder="default: the change" />
        <p className="flex gap-3">
          <MainButton type="submit" disabled={problems.length > 0 || !answer.data}>
            Start it
          </MainButton>
          <Button onClick={close}>Cancel</Button>
        </p>
      </form>
    </Dialog>
  );
}

type PlanProps = { plan: Plan; set: (part: Partial<Plan>) => void; kinds: Record<string, string> | undefined };

function PlanFields({ plan, set, kinds }: PlanProps) {
  return (
    <>
      <div className="grid grid-cols-2 gap-3">
        <Choice
          label="kind of change"
          value={plan.kind}
          onChange={(event) => set({ kind: event.target.value as Plan["kind"] })}
        >
          {Object.entries(kinds ?? { [plan.kind]: plan.kind }).map(([kind, words]) => (
            <option key={kind} value={kind}>
              {words}
            </option>
          ))}
        </Choice>
        <Choice
          label="measured by"
          value={plan.measure}
          onChange={(event) => set({ measure: event.target.value as Plan["measure"] })}
        >
          {Object.entries(MEASURES).map(([measure, words]) => (
            <option key={measure} value={measure}>
              {words}
            </option>
          ))}
        </Choice>
        <DateField
          label="day of the change"
          value={plan.first_day}
          onDay={(first_day) => set({ first_day })}
          required
        />
        <Field
          label="length in weeks"
          type="number"
          min={3}
          max={26}
          value={plan.weeks}
          onChange={(event) => set({ weeks: Number(event.target.value) || 4 })}
        />
      </div>
      <fieldset>
        <legend className="text-faint">how</legend>
        {(Object.entries(DESIGNS) as [Plan["design"], string][]).map(([design, words]) => (
          <label key={design} className="flex min-h-6 items-center gap-1.5">
            <input type="radio" name="design" checked={plan.design === design} onChange={() => set({ design })} />
            {words}
          </label>
        ))}
      </fieldset>
    </>
  );
}
