// Every shared part in its states, for the eye and for a test that compares pictures: /parts.html of the development server.
import { Tooltip } from "radix-ui";
import { type ReactNode, StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { Figure, Gain, Named } from "../listing/cells";
import { MarkWord } from "../moves/MarkWord";
import { Ledger, LedgerAroundAxis, LedgerKey } from "../pages/Ledger";
import { Chips } from "../shared/Chips";
import { EvidenceHead } from "../shared/EvidenceHead";
import { EvidenceMark } from "../shared/EvidenceMark";
import { Ghost } from "../shared/Ghost";
import { Part } from "../shared/Part";
import { Button, Choice, Failed, Field, Help, MainButton, Notice, Words } from "../shared/parts";
import { Range } from "../shared/Range";
import { startTheme } from "../shared/theme";
import { Views } from "../shared/Views";
import { GRADES } from "../state/view";
import "../main.css";

const nothing = () => {};
const AMOUNTS = { clicks: 300, snippet: 120, rank: 80, unite: 40 };
const MARK = { word: "to do", move: 1, why: "", until: null, by: null, decision: null } as never;
const DONE = { word: "done", move: 1, why: "", until: null, by: null, decision: null } as never;

function Shown({ name, children }: { name: string; children: ReactNode }) {
  return (
    <section className="border-rule border-t py-3">
      <h2 className="mb-2 text-faint text-xs">{name}</h2>
      {children}
    </section>
  );
}

function Controls() {
  return (
    <>
      <Shown name="Actions: boxed, main, disabled; link; help">
        <p className="flex flex-wrap items-center gap-3">
          <Button>Make a move</Button>
          <MainButton>Load into the site</MainButton>
          <Button disabled>Not now</Button>
          <MainButton disabled>Nothing to load</MainButton>
          <Button plain>Show them</Button>
          <Help name="How it's calculated" />
        </p>
      </Shown>
      <Shown name="Fields: empty with a placeholder, filled, choice, text, several to check">
        <div className="grid grid-cols-4 gap-4">
          <Field label="section" placeholder="/guides/" />
          <Field label="impressions at least" defaultValue="100" hint="Impressions in the period." />
          <Choice label="effort" defaultValue="1">
            <option value="1">an hour</option>
          </Choice>
          <Words label="note" defaultValue="Ask the workshop." rows={2} />
        </div>
        <Chips
          label="problem"
          known={["too long", "missing", "double"]}
          chosen={["missing"]}
          count={(one) => (one === "double" ? undefined : one.length)}
          choose={nothing}
        />
      </Shown>
      <Shown name="Tabs">
        <Views<"low" | "near">
          views={{ low: "Low click-through", near: "Striking distance" }}
          chosen="low"
          choose={nothing}
        />
      </Shown>
    </>
  );
}

function Figures() {
  const range = {
    low: 0.04,
    high: 0.09,
    usual: 0.06,
    most: 0.3,
    below: "bad",
    words: "CTR and its usual range",
  } as const;
  return (
    <>
      <Shown name="Range: below, within and above what is usual">
        <p className="flex gap-8">
          <Range value={0.006} {...range} />
          <Range value={0.07} {...range} />
          <Range value={0.2} {...range} />
        </p>
      </Shown>
      <Shown name="Evidence; decisions">
        <p className="flex gap-6">
          {GRADES.map((grade) => (
            <EvidenceMark key={grade} grade={grade} />
          ))}
          <MarkWord mark={MARK} />
          <MarkWord mark={DONE} />
        </p>
      </Shown>
      <Shown name="A row's name and figures">
        <div className="grid w-[40rem] grid-cols-[1fr_6rem_6rem_6rem] items-start gap-4">
          <div>
            <Named
              name="what size canoe do i need"
              title=""
              mark={<MarkWord mark={MARK} />}
              below="/guides/what-size/"
            />
          </div>
          <div className="figures text-right">
            <Figure value={12345} grade="firm" below="explained" />
          </div>
          <div className="figures text-right">
            <Gain
              row={{ gain_month: 312, lost_month: 1, potential_month: 400, opportunity_month: 401 }}
              grade="likely"
            />
          </div>
          <div className="figures text-right">
            <Figure value={null} />
          </div>
        </div>
      </Shown>
      <Shown name="The ledger line: alone, around its axis, longer than fits">
        <div className="w-80 space-y-2">
          <Ledger row={AMOUNTS} longest={540} tall />
          <LedgerAroundAxis row={{ ...AMOUNTS, clicks: 90 }} added={240} />
          <LedgerAroundAxis row={{ ...AMOUNTS, clicks: 9000 }} added={240} />
          <LedgerKey />
        </div>
      </Shown>
    </>
  );
}

function States() {
  return (
    <>
      <Shown name="The head of evidence; a part">
        <article className="w-96 px-5">
          <EvidenceHead name="/guides/what-size-canoe-do-i-need/" named>
            <Button>Make a move</Button>
            <Button>Dismiss</Button>
          </EvidenceHead>
          <Part title="Its queries" aside={<Button plain>Show all</Button>}>
            Twelve queries lead to it.
          </Part>
        </article>
      </Shown>
      <Shown name="Nothing yet, failed, on the way">
        <div className="grid grid-cols-3 gap-4">
          <Notice title="No drafts yet" action={<Button>See content gaps</Button>}>
            Press d on a content gap to start one.
          </Notice>
          <Failed error="The server did not answer." retry={nothing} />
          <Ghost words="Comparing the period with the click curve." />
        </div>
      </Shown>
    </>
  );
}

startTheme();
const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <Tooltip.Provider>
        <main className="p-6">
          <h1 className="mb-3 text-2xl">Parts</h1>
          <Controls />
          <Figures />
          <States />
        </main>
      </Tooltip.Provider>
    </StrictMode>,
  );
