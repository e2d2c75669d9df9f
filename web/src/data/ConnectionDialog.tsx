import { type FormEvent, useState } from "react";
import { api, type Schemas } from "../api/client";
import { Dialog } from "../shared/Dialog";
import { moment } from "../shared/format";
import { Button, Field, MainButton } from "../shared/parts";
import { useAct } from "../shared/useAct";
import { SOURCES } from "./names";

type Props = {
  slug: string;
  source: Schemas["ConnectionShown"]["source"];
  stored?: Schemas["ConnectionShown"];
  close: () => void;
};

/** The service that provides a source, and whether it is fetched every night. */
export function ConnectionDialog({ slug, source, stored, close }: Props) {
  const act = useAct();
  const [nightly, setNightly] = useState(stored?.nightly ?? false);
  const path = { slug, source };

  async function keep(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const token = String(form.get("token"));
    const body = {
      address: String(form.get("address")),
      token: token || !stored ? token : null,
      private_allowed: stored?.private_allowed ?? false,
      nightly,
    };
    const saved = await act(
      () => api.PUT("/api/sites/{slug}/connections/{source}", { params: { path }, body }),
      source === "text" ? "Connected." : "Connected. “Refresh” fetches missing data.",
    );
    if (saved) close();
  }

  async function disconnect() {
    await act(
      () => api.DELETE("/api/sites/{slug}/connections/{source}", { params: { path } }),
      source === "text" ? "Disconnected." : "Disconnected. Fetched data stay.",
    );
    close();
  }

  return (
    <Dialog
      title={source === "text" ? "A text service" : `${SOURCES[source].title} from a service`}
      open
      onOpen={(open) => !open && close()}
    >
      <form onSubmit={keep} className="space-y-3">
        <p className="text-faint">
          The service must follow docs/services.md: JSON over HTTP with a bearer token.
          {stored?.requested_at && ` Last refresh ${moment(stored.requested_at)}.`}
        </p>
        <Field
          label="Address"
          name="address"
          type="url"
          required
          defaultValue={stored?.address}
          placeholder="https://data.shop.example/search"
        />
        <Field
          label="Token"
          name="token"
          type="password"
          autoComplete="off"
          hint={
            stored?.has_token
              ? "A token is saved; leave this empty to keep using it."
              : "Leave empty if the service needs none."
          }
        />
        {source !== "text" && (
          <label className="flex min-h-6 items-center gap-2">
            <input type="checkbox" checked={nightly} onChange={() => setNightly(!nightly)} />
            Refresh every night
          </label>
        )}
        <div className="flex gap-3">
          <MainButton type="submit">Keep</MainButton>
          {stored && <Button onClick={disconnect}>Disconnect</Button>}
        </div>
      </form>
    </Dialog>
  );
}
