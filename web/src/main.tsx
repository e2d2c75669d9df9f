import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { ProblemError } from "./api/client";
import { makeRouter } from "./router";
import { startTheme } from "./shared/theme";
import "./main.css";

const BUSY = 503;
const BUSY_TIMES = 40;
/** Refusals are final; an unreachable server is asked again, and a busy one after the time it names. */
function askAgain(failures: number, error: Error): boolean {
  const problem = error instanceof ProblemError ? error.problem : undefined;
  if (problem?.status !== BUSY) return !problem?.status && failures < 2;
  import("sonner").then(({ toast }) => toast.message(`${problem.detail} ${problem.remedy}`, { id: "busy" }));
  return failures < BUSY_TIMES;
}

// Loaded after the page: nothing is said at first.
const Messages = lazy(() => import("sonner").then(({ Toaster }) => ({ default: Toaster })));

startTheme();
const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      retry: askAgain,
      networkMode: "always", // without a network, a request fails at once with a message instead of waiting
      retryDelay: (failures) => Math.min(1_000 * 2 ** failures, 4_000),
      refetchOnWindowFocus: false,
    },
  },
});
const router = makeRouter(queryClient);

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queryClient}>
        <RouterProvider router={router} />
        <Suspense>
          <Messages position="bottom-right" duration={5000} style={{ fontFamily: "inherit" }} />
        </Suspense>
      </QueryClientProvider>
    </StrictMode>,
  );
}
