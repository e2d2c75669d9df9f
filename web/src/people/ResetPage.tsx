// A new password: requested by name or mail address, and set at the mailed link.
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { toast } from "sonner";
import { api, ProblemError } from "../api/client";
import { Field, MainButton } from "../shared/parts";
import { Alone } from "./Alone";

export function AskForReset() {
  const [message, setMessage] = useState("");
  async function send(event: FormEvent<HTMLFormElement>) {
    const name = String(new FormData(event.currentTarget).get("name"));
    try {
      await api.POST("/api/account/reset", { body: { name } });
      setMessage("If the account has a mail address, we sent a link. It works for three days.");
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      setMessage(error.problem.detail);
    }
  }
  return (
    <Alone title="A new password" submit={send}>
      {message ? (
        <p role="status">{message}</p>
      ) : (
        <>
          <Field label="user name or mail address" name="name" required autoFocus />
          <MainButton type="submit" className="w-full">
            Send me a link
          </MainButton>
          <p className="text-faint">No mail? Ask an owner of your site or your administrator.</p>
        </>
      )}
      <Link to="/sign-in" search={{}} className="link">
        Back to sign-in
      </Link>
    </Alone>
  );
}

export function ResetPage() {
  const { user = "", token = "" } = useParams({ strict: false });
  const navigate = useNavigate();
  const [wrong, setWrong] = useState("");
  async function set(event: FormEvent<HTMLFormElement>) {
    const password = String(new FormData(event.currentTarget).get("password"));
    try {
      await api.PUT("/api/account/reset", { body: { user, token, password } });
      toast("Password changed. Sign in.");
      navigate({ to: "/sign-in", search: {} });
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      setWrong(`${error.problem.detail} ${error.problem.remedy}`);
    }
  }
  return (
    <Alone title="A new password" submit={set}>
      <Field
        label="new password"
        name="password"
        type="password"
        autoComplete="new-password"
        required
        autoFocus
        hint="eight letters or more, and not a common one; all your sessions end"
      />
      {wrong && (
        <p role="alert" className="text-rust">
          {wrong}
        </p>
      )}
      <MainButton type="submit" className="w-full">
        Set it
      </MainButton>
    </Alone>
  );
}
