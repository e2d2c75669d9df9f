// Accept an invitation: as the signed-in person, or with a new account.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { ask, sessionQuery } from "../api/ask";
import { api, ProblemError, values } from "../api/client";
import { day } from "../shared/format";
import { Field, MainButton } from "../shared/parts";
import { Alone } from "./Alone";

export function InvitationPage() {
  const { token = "" } = useParams({ strict: false });
  const { proved = "" } = useSearch({ strict: false });
  const params = { path: { token } };
  const session = useQuery(sessionQuery);
  const found = ask.useQuery("get", "/api/invitations/{token}", { params }, { retry: false });
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const [wrong, setWrong] = useState("");
  if (found.error instanceof ProblemError)
    return (
      <Alone title="Invitation">
        <p role="alert">
          {found.error.problem.detail} {found.error.problem.remedy}
        </p>
        <Link to="/" className="link">
          To your sites
        </Link>
      </Alone>
    );
  const invitation = found.data;
  if (!invitation || session.isPending) return <Alone title="Invitation">One moment.</Alone>;
  const known = session.data?.username;

  async function take(event: FormEvent<HTMLFormElement>) {
    const form = new FormData(event.currentTarget);
    const body = {
      username: String(form.get("username") ?? ""),
      password: String(form.get("password") ?? ""),
      proof: proved,
    };
    try {
      const { slug } = values(await api.POST("/api/invitations/{token}", { params, body }));
      queryClient.clear();
      navigate({ to: "/$site/changes", params: { site: slug } });
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      setWrong(`${error.problem.detail} ${error.problem.remedy}`);
    }
  }

  return (
    <Alone title={`Join ${invitation.site}`} submit={take}>
      <p>
        {invitation.by || "The operator"} invites {invitation.email} to look after {invitation.site} (
        {invitation.address}) as {invitation.role}. The invitation is valid until {day(invitation.ends_on)}.
      </p>
      {known ? (
        <p>You are signed in as {known}.</p>
      ) : (
        <>
          <Field label="choose a user name" name="username" autoComplete="username" required />
          <Field
            label="choose a password"
            name="password"
            type="password"
            autoComplete="new-password"
            required
            hint="eight letters or more, and not a common one"
          />
        </>
      )}
      {wrong && (
        <p role="alert" className="text-rust">
          {wrong}
        </p>
      )}
      <MainButton type="submit" className="w-full">
        Join
      </MainButton>
      {!known && (
        <p>
          Already have an account?{" "}
          <Link to="/sign-in" search={{ next: `/invitation/${token}` }} className="link">
            Sign in first
          </Link>
        </p>
      )}
    </Alone>
  );
}
