// The API, typed from its schema; every error becomes a ProblemError.
import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./schema.generated";

export type Schemas = components["schemas"];
export type Problem = Schemas["Problem"];

export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail || problem.title);
  }
}

export function csrfToken(): string {
  return document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1] ?? "";
}

export async function problemOf(response: Response): Promise<ProblemError> {
  try {
    return new ProblemError(await response.clone().json());
  } catch {
    return new ProblemError({
      type: "about:blank",
      title: "Unexpected answer",
      status: response.status,
      detail: `The server answered with status ${response.status} and no explanation.`,
      remedy: "Try again; if it stays so, look at the server's log.",
      fields: [],
      problems: [],
    });
  }
}

const guard: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
  async onResponse({ response }) {
    if (!response.ok) throw await problemOf(response);
  },
  onError() {
    return new ProblemError({
      type: "about:blank",
      title: "The server cannot be reached",
      status: 0,
      detail: "The server cannot be reached.",
      remedy: "Check that it runs and that you are connected, then try again.",
      fields: [],
      problems: [],
    });
  },
};

export const api = createClient<paths>({ baseUrl: "/" });
api.use(guard);

/** The data of a successful response. */
export function values<T>(answer: { data?: T }): T {
  return answer.data as T;
}
