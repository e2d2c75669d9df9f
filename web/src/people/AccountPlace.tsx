// Your account: password, mail address, second factor, sessions, tokens for scripts.
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import Bowser from "bowser";
import { type FormEvent, type ReactNode, useEffect, useState } from "react";
import { ask, sitesQuery } from "../api/ask";
import { api, type Schemas } from "../api/client";
import { Board } from "../frame/Board";
import { DateField } from "../shared/DateField";
import { Dialog } from "../shared/Dialog";
import { FigureTable } from "../shared/FigureTable";
import { day, moment } from "../shared/format";
import { Part } from "../shared/Part";
import { Button, Choice, Failed, Field, MainButton, Notice } from "../shared/parts";
import { useAct } from "../shared/useAct";
import { usePreferences } from "./usePreferences";

type Account = Schemas["AccountShown"];
const done = <T,>(call: Promise<T>) => call.then(() => ({ data: true }));
const DAY = 86_400_000;

export function AccountPlace() {
  const found = ask.useQuery("get", "/api/account", {});
  useEffect(() => {
    document.title = "Your account · Zugzwang";
  }, []);
  if (found.error) return <Failed error={found.error} retry={() => found.refetch()} />;
  if (!found.data) return <Notice title="Opening your account">One moment.</Notice>;
  return (
    <main className="mx-auto max-w-5xl px-6 py-5">
      <header className="flex items-center gap-3">
        <Link to="/" aria-label="To your sites">
          <Board />
        </Link>
        <h1 className="flex-1 text-2xl">{found.data.name}</h1>
        <Link to="/sites" className="link">
          All sites
        </Link>
      </header>
      {found.data.administrator && <p className="text-faint">You administer this installation: you see every site.</p>}
      <div className="grid gap-x-10 *:min-w-0 lg:grid-cols-2">
        <div>
          <Password />
          <SecondFactor account={found.data} />
          <Sessions account={found.data} />
        </div>
        <div>
          <Mail account={found.data} />
          <Reading />
        </div>
      </div>
      <Tokens account={found.data} />
    </main>
  );
}

const text = (form: HTMLFormElement, name: string) => String(new FormData(form).get(name) ?? "");

function Password() {
  const act = useAct();
  async function change(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = event.currentTarget;
    const body = { password: text(form, "password"), new_password: text(form, "new_password") };
    if (
      await act(
        () => done(api.PUT("/api/account/password", { body })),
        "Password changed. All other sessions and tokens have ended.",
      )
    )
      form.reset();
  }
  return (
    <Part title="Password">
      <form onSubmit={change} className="space-y-2">
        <Field label="your password now" name="password" type="password" autoComplete="current-password" required />
        <Field label="a new one" name="new_password" type="password" autoComplete="new-password" required />
        <Button type="submit">Change password</Button>
      </form>
      <p className="mt-1 text-faint text-xs">A new password ends your other sessions and all tokens for scripts.</p>
    </Part>
  );
}

function Mail({ account }: { account: Account }) {
  const act = useAct();
  async function set(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = event.currentTarget;
    const body = { email: text(form, "email"), password: text(form, "password") };
    await act(
      () => done(api.PUT("/api/account/email", { body })),
      `Check ${body.email}: open the link in the mail to confirm the address.`,
    );
  }
  return (
    <Part title="Mail address">
      {!account.mail && <p className="text-faint">This installation sends no mail, so you cannot add an address.</p>}
      <form onSubmit={set} className="space-y-2" hidden={!account.mail}>
        <Field
          label="for password resets"
          name="email"
          type="email"
          defaultValue={account.email}
          autoComplete="email"
          required
        />
        <Field label="your password" name="password" type="password" autoComplete="current-password" required />
        <Button type="submit">Send a link there</Button>
      </form>
    </Part>
  );
}

const LANGUAGES: [string, string][] = [
  ["", "as in sentences: 1 208.5, 16 Aug 2026"],
  ["en_GB", "English (Britain): 1,208.5, 16 Aug 2026"],
  ["en_US", "English (America): 1,208.5, Aug 16, 2026"],
  ["de", "German: 1.208,5, 16. Aug. 2026"],
  ["fr", "French: 1 208,5, 16 août 2026"],
  ["es", "Spanish: 1208,5, 16 ago 2026"],
  ["it", "Italian: 1208,5, 16 ago 2026"],
  ["nl", "Dutch: 1.208,5, 16 aug 2026"],
];

/** Reading preferences. Sentences are in English, with numbers in their own format. */
function Reading() {
  const { stored, change } = usePreferences();
  async function keep(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = event.currentTarget;
    const answer = {
      language: text(form, "language"),
      time_zone: text(form, "time_zone"),
      currency: text(form, "currency"),
    };
    await change({ ...answer, single_keys: new FormData(form).has("single_keys") }, "Kept.");
  }
  return (
    <Part title="Reading and typing">
      <form onSubmit={keep} className="space-y-2" key={JSON.stringify(stored)}>
        <Choice label="numbers and dates in lists" name="language" defaultValue={stored.language}>
          {LANGUAGES.map(([value, says]) => (
            <option key={value} value={value}>
              {says}
            </option>
          ))}
        </Choice>
        <Choice label="time zone" name="time_zone" defaultValue={stored.time_zone}>
          <option value="">this computer's</option>
          {["UTC", ...Intl.supportedValuesOf("timeZone")].map((zone) => (
            <option key={zone}>{zone}</option>
          ))}
        </Choice>
        <Choice label="default currency" name="currency" defaultValue={stored.currency}>
          <option value="">none</option>
          {Intl.supportedValuesOf("currency").map((one) => (
            <option key={one}>{one}</option>
          ))}
        </Choice>
        <label className="flex min-h-7 items-center gap-2">
          <input type="checkbox" name="single_keys" defaultChecked={stored.single_keys} />
          Single-letter shortcuts are on
        </label>
        <Button type="submit">Keep it</Button>
      </form>
    </Part>
  );
}

function SecondFactor({ account }: { account: Account }) {
  const act = useAct();
  const [open, setOpen] = useState(false);
  const [codes, setCodes] = useState<string[]>([]);
  async function end(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const body = { password: text(event.currentTarget, "password") };
    await act(() => done(api.POST("/api/account/second-factor/end", { body })), "Two-factor sign-in is off.");
  }
  return (
    <Part title="Second factor">
      {account.second_factor ? (
        <form onSubmit={end} className="space-y-2">
          <p>You need a code from your authenticator app to sign in.</p>
          <Field label="your password" name="password" type="password" autoComplete="current-password" required />
          <Button type="submit">End it</Button>
        </form>
      ) : (
        <>
          <p className="mb-2 text-faint">Protect your account with an authenticator app on your phone.</p>
          <Button onClick={() => setOpen(true)}>Set one up</Button>
        </>
      )}
      {open && (
        <SetUp
          close={() => setOpen(false)}
          begun={(made) => {
            setOpen(false);
            setCodes(made);
          }}
        />
      )}
      <Dialog title="Recovery codes" open={codes.length > 0} onOpen={() => setCodes([])}>
        <p className="mb-2">Each works once if you lose your phone. Store them safely: they are not shown again.</p>
        <pre className="mb-3 columns-2 border border-rule bg-paper p-3">{codes.join("\n")}</pre>
        <MainButton onClick={() => setCodes([])}>I have saved them</MainButton>
      </Dialog>
    </Part>
  );
}

function SetUp({ close, begun }: { close: () => void; begun: (codes: string[]) => void }) {
  const act = useAct();
  // One secret for as long as this is open.
  const offered = ask.useQuery(
    "get",
    "/api/account/second-factor",
    {},
    { staleTime: Number.POSITIVE_INFINITY, gcTime: 0 },
  );
  async function begin(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = event.currentTarget;
    const body = {
      secret: offered.data?.secret ?? "",
      password: text(form, "password"),
      code: text(form, "code"),
    };
    const made = await act(() => api.PUT("/api/account/second-factor", { body }));
    if (made) begun(made.codes);
  }
  return (
    <Dialog title="Two-factor sign-in" open onOpen={(open) => !open && close()}>
      {offered.data ? (
        <form onSubmit={begin} className="space-y-3">
          <p>Scan this with an authenticator app, or type its secret there.</p>
          <img
            src={`data:image/svg+xml;base64,${btoa(offered.data.picture)}`}
            alt="The secret, to be scanned"
            className="size-44 bg-white p-2"
          />
          <p className="break-all font-mono text-xs">{offered.data.secret}</p>
          <Field label="code from the app" name="code" inputMode="numeric" autoComplete="one-time-code" required />
          <Field label="your password" name="password" type="password" autoComplete="current-password" required />
          <p className="flex gap-3">
            <MainButton type="submit">Turn on</MainButton>
            <Button onClick={close}>Cancel</Button>
          </p>
        </form>
      ) : (
        <p>One moment.</p>
      )}
    </Dialog>
  );
}

/** The program of a session, such as “Firefox on Windows”; a script's own name unchanged. */
function browserOf(agent: string): string {
  if (!agent.trim()) return "Not given";
  const { browser, os } = Bowser.parse(agent);
  return [browser.name || agent, os.name].filter(Boolean).join(" on ");
}

function Sessions({ account }: { account: Account }) {
  const act = useAct();
  const end = (session_id: number) =>
    act(
      () => done(api.DELETE("/api/account/sessions/{session_id}", { params: { path: { session_id } } })),
      "Session ended.",
    );
  return (
    <Part
      title="Sessions"
      aside={
        account.sessions.length > 1 && (
          <Button
            plain
            className="min-h-6"
            onClick={() => act(() => done(api.DELETE("/api/account/sessions", {})), "All other sessions ended.")}
          >
            End all other sessions
          </Button>
        )
      }
    >
      <ul>
        {account.sessions.map((one) => (
          <li key={one.id} className="flex flex-wrap items-baseline gap-x-3 border-rule border-t py-1 first:border-t-0">
            <span className="min-w-0 flex-1">
              <span title={one.agent} className="break-words">
                {browserOf(one.agent)}
              </span>
              {one.own ? ", this session" : `, last used ${moment(one.seen_at)}`}
              <span className="block text-faint text-xs">
                from {one.address}, signed in {moment(one.begun_at)}
              </span>
            </span>
            {!one.own && (
              <Button plain className="min-h-6" onClick={() => end(one.id)}>
                End it
              </Button>
            )}
          </li>
        ))}
      </ul>
    </Part>
  );
}

function Tokens({ account }: { account: Account }) {
  const act = useAct();
  const sites = useQuery(sitesQuery).data ?? [];
  const [secret, setSecret] = useState("");
  const [ends_on, setEnds] = useState(new Date(Date.now() + 90 * DAY).toISOString().slice(0, 10));
  async function add(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = event.currentTarget;
    const answer = new FormData(form);
    const body = {
      name: String(answer.get("name")),
      sites: answer.getAll("sites").map(String),
      role: answer.get("role") as "reader" | "analyst",
      ends_on,
    };
    const made = await act(() => api.POST("/api/account/tokens", { body }));
    if (!made) return;
    setSecret(made.secret);
    form.reset();
  }
  const revoke = (token_id: number) =>
    act(() => done(api.DELETE("/api/account/tokens/{token_id}", { params: { path: { token_id } } })), "It is revoked.");
  return (
    <Part title="Tokens for scripts">
      {account.tokens.length > 0 && (
        <FigureTable
          className="mb-3"
          rows={account.tokens}
          keyOf={(one) => one.id}
          columns={[
            { head: "name", cell: (one) => `${one.name} (${one.begins}…)` },
            { head: "sites", left: true, cell: (one) => one.sites.join(", ") },
            { head: "may", left: true, cell: (one) => (one.role === "reader" ? "look" : "change") },
            { head: "until", left: true, cell: (one) => (one.ended ? "ended" : day(one.ends_on)) },
            { head: "used", left: true, cell: (one) => (one.used_at ? moment(one.used_at) : "never") },
            {
              head: "",
              cell: (one): ReactNode =>
                !one.ended && (
                  <Button plain className="min-h-6" onClick={() => revoke(one.id)}>
                    Revoke
                  </Button>
                ),
            },
          ]}
        />
      )}
      <form onSubmit={add} className="flex flex-wrap items-end gap-3">
        <div className="w-52">
          <Field label="purpose" name="name" required maxLength={100} />
        </div>
        <Choice label="may" name="role">
          <option value="reader">look</option>
          <option value="analyst">allow changes</option>
        </Choice>
        <div className="w-40">
          <DateField label="until" value={ends_on} onDay={setEnds} required />
        </div>
        <fieldset>
          <legend className="text-faint">on</legend>
          <span className="flex flex-wrap gap-x-3">
            {sites.map((one, at) => (
              <label key={one.slug} className="flex min-h-6 items-center gap-1.5">
                <input type="checkbox" name="sites" value={one.slug} defaultChecked={at === 0 && sites.length === 1} />
                {one.name}
              </label>
            ))}
          </span>
        </fieldset>
        <Button type="submit">Create token</Button>
      </form>
      <p className="mt-1 text-faint text-xs">
        Send it as <code>Authorization: Bearer …</code> and can do no more than you can. Tokens end when you change your
        password. Leaving a site removes it from your tokens; if you are invited again, make new ones.
      </p>
      <Dialog title="The token" open={secret !== ""} onOpen={() => setSecret("")}>
        <p className="mb-2">Copy it now: it is shown only once.</p>
        <p className="mb-3 break-all border border-rule bg-paper p-3 font-mono text-sm">{secret}</p>
        <p className="flex gap-3">
          <MainButton onClick={() => navigator.clipboard.writeText(secret)}>Copy it</MainButton>
          <Button onClick={() => setSecret("")}>I have saved it</Button>
        </p>
      </Dialog>
    </Part>
  );
}
