import { useQueryClient } from "@tanstack/react-query";
import { getRouteApi, Link, useRouter } from "@tanstack/react-router";
import { type FormEvent, useEffect, useState } from "react";
import { sessionQuery } from "../api/ask";
import { api, type ProblemError, values } from "../api/client";
import { Field, MainButton } from "../shared/parts";
import { Board } from "./Board";

const route = getRouteApi("/sign-in");

export function SignIn() {
  const { next } = route.useSearch();
  const router = useRouter();
  const queryClient = useQueryClient();
  const [wrong, setWrong] = useState<ProblemError | null>(null);
  const [busy, setBusy] = useState(false);

  // Requesting the session sets the cookie that signing in must return.
  useEffect(() => {
    queryClient.ensureQueryData(sessionQuery);
    document.title = "Sign in · Zugzwang";
  }, [queryClient]);

  async function signIn(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    setBusy(true);
    try {
      const body = {
        username: String(form.get("username")),
        password: String(form.get("password")),
        code: String(form.get("code") ?? ""),
      };
      const session = values(await api.POST("/api/session", { body }));
      queryClient.clear();
      queryClient.setQueryData(sessionQuery.queryKey, session);
      router.history.push(next ?? "/");
    } catch (error) {
      setWrong(error as ProblemError);
    } finally {
      setBusy(false);
    }
  }

  return (
    <main className="grid min-h-full place-items-center p-6">
      <form onSubmit={signIn} className="w-full max-w-xs space-y-4">
        <div className="flex items-center gap-3 border-ink border-b pb-3">
          <Board />
          <h1 className="text-3xl">Zugzwang</h1>
        </div>
        <p className="text-faint">Which pages to work on next, and how sure we are.</p>
        <Field label="User name" name="username" autoComplete="username" required autoFocus />
        <Field label="Password" name="password" type="password" autoComplete="current-password" required />
        {(wrong?.problem.fields ?? []).some((one) => one.field === "code") && (
          <Field label="Code" name="code" inputMode="numeric" autoComplete="one-time-code" required autoFocus />
        )}
        {wrong && (
          <p role="alert" className="text-rust">
            {wrong.problem.detail} {wrong.problem.remedy}
          </p>
        )}
        <MainButton type="submit" disabled={busy} className="w-full">
          Sign in
        </MainButton>
        <p>
          <Link to="/reset" className="link">
            Forgot your password?
          </Link>
        </p>
      </form>
    </main>
  );
}
