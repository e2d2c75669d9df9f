// People of a site: members, invitations, the activity log; and, for owners, the site as a whole.
import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { toast } from "sonner";
import { ask, ofSite } from "../api/ask";
import { api, type Schemas } from "../api/client";
import { useSite } from "../frame/useSite";
import { PlaceLine } from "../listing/PlaceLine";
import { Dialog } from "../shared/Dialog";
import { download } from "../shared/export";
import { FigureTable } from "../shared/FigureTable";
import { day, moment } from "../shared/format";
import { Part } from "../shared/Part";
import { Button, Choice, Failed, Field, MainButton, Notice } from "../shared/parts";
import { useAct } from "../shared/useAct";

type Site = Schemas["SiteShown"];
type People = Schemas["PeopleShown"];
type Role = People["members"][number]["role"];
const ROLES: Record<Role, string> = {
  reader: "reader: looks",
  analyst: "analyst: changes data and moves",
  owner: "owner: manages people",
};
const done = <T,>(call: Promise<T>) => call.then(() => ({ data: true }));

export function PeoplePlace() {
  const { site } = useSite();
  return site ? <Loaded site={site} /> : null;
}

function Loaded({ site }: { site: Site }) {
  const found = ask.useQuery("get", "/api/sites/{slug}/members", ofSite(site.slug));
  if (found.error) return <Failed error={found.error} retry={() => found.refetch()} />;
  return (
    <>
      <PlaceLine site={site} to="/$site/people">
        <h1 className="text-lead">People</h1>
      </PlaceLine>
      {found.data ? (
        <div className="min-h-0 flex-1 overflow-auto px-4 pb-6">
          <div className="grid gap-x-10 *:min-w-0 lg:grid-cols-2">
            <Members site={site} people={found.data} />
            {found.data.may_own && <Invitations site={site} people={found.data} />}
          </div>
          {found.data.may_own && <Trail site={site} />}
          {found.data.may_own && <Whole site={site} />}
        </div>
      ) : (
        <Notice title="Loading the members">One moment.</Notice>
      )}
    </>
  );
}

function Members({ site, people }: { site: Site; people: People }) {
  const act = useAct();
  const navigate = useNavigate();
  const of = (member_id: number) => ({ path: { slug: site.slug, member_id } });
  const set = (id: number, role: Role) =>
    act(() => api.PATCH("/api/sites/{slug}/members/{member_id}", { params: of(id), body: { role } }), "Role changed.");
  const remove = async (id: number, own: boolean) => {
    const gone = await act(() => done(api.DELETE("/api/sites/{slug}/members/{member_id}", { params: of(id) })));
    if (gone && own) navigate({ to: "/" });
  };
  return (
    <Part title="Members">
      <FigureTable
        rows={people.members}
        keyOf={(one) => one.id}
        columns={[
          {
            head: "who",
            cell: (one) => (
              <>
                <span className="font-medium">{one.name}</span>
                {one.own && <span className="text-faint"> (you)</span>}
                <span className="block break-all text-faint text-xs">
                  {one.email}
                  {people.may_own && (one.second_factor ? ", second factor" : "")}
                </span>
              </>
            ),
          },
          {
            head: "role",
            left: true,
            cell: (one) =>
              people.may_own ? (
                <select
                  aria-label={`role of ${one.name}`}
                  value={one.role}
                  onChange={(event) => set(one.id, event.target.value as Role)}
                  className="min-h-6 border border-strong-rule bg-sheet px-1"
                >
                  {Object.keys(ROLES).map((role) => (
                    <option key={role}>{role}</option>
                  ))}
                </select>
              ) : (
                one.role
              ),
          },
          {
            head: "",
            cell: (one) =>
              (people.may_own || one.own) && (
                <Button plain className="min-h-6" onClick={() => remove(one.id, one.own)}>
                  {one.own ? "Leave the site" : "Remove"}
                </Button>
              ),
          },
        ]}
      />
    </Part>
  );
}

function Invitations({ site, people }: { site: Site; people: People }) {
  const act = useAct();
  async function invite(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = event.currentTarget;
    const answer = new FormData(form);
    const body = { email: String(answer.get("email")), role: answer.get("role") as Role };
    const made = await act(
      () => api.POST("/api/sites/{slug}/invitations", { ...ofSite(site.slug), body }),
      people.mail ? "Invitation sent." : "Invitation ready. Copy its link and send it.",
    );
    if (made) form.reset();
  }
  const revoke = (invitation_id: number) =>
    act(
      () =>
        done(
          api.DELETE("/api/sites/{slug}/invitations/{invitation_id}", {
            params: { path: { slug: site.slug, invitation_id } },
          }),
        ),
      "Invitation revoked.",
    );
  const copy = async (path: string) => {
    await navigator.clipboard.writeText(`${location.origin}${path}`);
    toast("Link copied.");
  };
  return (
    <Part title="Invite someone">
      <form onSubmit={invite} className="flex flex-wrap items-end gap-3">
        <div className="min-w-48 flex-1">
          <Field label="mail address" name="email" type="email" required />
        </div>
        <Choice label="as" name="role" defaultValue="analyst">
          {Object.entries(ROLES).map(([role, words]) => (
            <option key={role} value={role}>
              {words}
            </option>
          ))}
        </Choice>
        <MainButton type="submit">Invite</MainButton>
      </form>
      {!people.mail && <p className="mt-1 text-faint text-xs">No mail server: copy the link.</p>}
      <ul className="mt-2">
        {people.invitations.map((one) => (
          <li key={one.id} className="flex flex-wrap items-baseline gap-x-3 border-rule border-t py-1">
            <span className="break-all">
              {one.email}, {one.role}, until {day(one.ends_on)}
              {one.mail_failed && (
                <span className="block text-ochre text-xs">
                  The mail server refused the mail. We will retry; or copy the address and send it yourself.
                </span>
              )}
            </span>
            <span className="ml-auto flex gap-x-3">
              <Button plain className="min-h-6" onClick={() => copy(one.path)}>
                Copy the address
              </Button>
              <Button plain className="min-h-6" onClick={() => revoke(one.id)}>
                Revoke
              </Button>
            </span>
          </li>
        ))}
      </ul>
    </Part>
  );
}

function Trail({ site }: { site: Site }) {
  const found = ask.useQuery("get", "/api/sites/{slug}/audit", ofSite(site.slug));
  const answer = (details: Record<string, unknown>) =>
    Object.entries(details)
      .filter(([, value]) => value !== null && value !== "")
      .map(([name, value]) => `${name.replaceAll("_", " ")}: ${value}`)
      .join("; ");
  return (
    <Part
      title="Activity log"
      aside={
        <Button plain className="min-h-6" onClick={() => download(`/api/sites/${site.slug}/audit/file`)}>
          Full log (CSV)
        </Button>
      }
    >
      <FigureTable
        className="max-sm:text-xs"
        rows={found.data ?? []}
        keyOf={(one) => one.id}
        first={12}
        columns={[
          { head: "when", width: "w-20 sm:w-40", cell: (one) => moment(one.at) },
          { head: "who", width: "w-14 sm:w-32", left: true, cell: (one) => one.who },
          { head: "what", width: "w-14 sm:w-40", left: true, cell: (one) => one.what },
          { head: "about", left: true, look: "break-words", cell: (one) => one.about },
          { head: "", left: true, look: "break-words text-faint", cell: (one) => answer(one.details) },
        ]}
      />
      {found.data?.length === 0 && <p className="text-faint">Nothing yet.</p>}
    </Part>
  );
}

/** The site's name, and archiving or deleting it. */
function Whole({ site }: { site: Site }) {
  const act = useAct();
  const navigate = useNavigate();
  const queryClient = useQueryClient();
  const [asking, setAsking] = useState(false);
  const { params } = ofSite(site.slug);
  const rename = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const name = String(new FormData(event.currentTarget).get("name"));
    act(() => done(api.PATCH("/api/sites/{slug}/name", { params, body: { name } })), "The name is changed.");
  };
  const move = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const address = String(new FormData(event.currentTarget).get("address"));
    act(() => done(api.PATCH("/api/sites/{slug}/address", { params, body: { address } })), "The address is changed.");
  };
  const archive = () =>
    site.archived
      ? act(() => done(api.DELETE("/api/sites/{slug}/archive", { params })), "The site is taken up again.")
      : act(() => done(api.POST("/api/sites/{slug}/archive", { params })), "The site is archived.");
  const remove = async () => {
    if (!(await act(() => done(api.DELETE("/api/sites/{slug}", { params }))))) return;
    queryClient.clear();
    navigate({ to: "/sites" });
  };
  return (
    <Part title="The site as a whole">
      <form onSubmit={rename} className="flex flex-wrap items-end gap-3">
        <div className="w-72">
          <Field label="name" name="name" defaultValue={site.name} required maxLength={200} key={site.name} />
        </div>
        <Button type="submit">Rename</Button>
      </form>
      <form onSubmit={move} className="mt-3 flex flex-wrap items-end gap-3">
        <div className="w-72">
          <Field
            label="address"
            name="address"
            type="url"
            defaultValue={site.address}
            required
            maxLength={200}
            key={site.address}
          />
        </div>
        <Button type="submit">Change the address</Button>
        <span className="pb-1 text-faint">
          Pages at the old address then count as those at the new one; cleaning lists them and can undo it.
        </span>
      </form>
      <p className="mt-3 flex flex-wrap items-center gap-3">
        <Button onClick={archive}>{site.archived ? "Unarchive" : "Archive it"}</Button>
        <span className="text-faint">
          {site.archived
            ? "It is archived: looked at, not changed; no service is asked, no report sent by itself."
            : "Archived, it can be looked at and is not changed; no service is asked, no report sent by itself."}
        </span>
      </p>
      <p className="mt-3 flex flex-wrap items-center gap-3">
        <Button onClick={() => download(`/api/sites/${site.slug}/archive/file`)}>Download site</Button>
        <span className="text-faint">All data of the site as one archive of open formats.</span>
      </p>
      <p className="mt-3 flex flex-wrap items-center gap-3">
        <Button onClick={() => setAsking(true)}>Delete it</Button>
        <span className="text-faint">For thirty days its owners can put it back; then it is gone for good.</span>
      </p>
      <Dialog title={`Delete ${site.name}?`} open={asking} onOpen={setAsking}>
        <p className="mb-3">Deleted. Owners can restore it under “All sites” for 30 days.</p>
        <p className="flex gap-3">
          <MainButton onClick={remove}>Delete it</MainButton>
          <Button onClick={() => setAsking(false)}>Cancel</Button>
        </p>
      </Dialog>
    </Part>
  );
}
