import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { Toaster } from "sonner";
import { ProblemError } from "./api/client";
import { makeRouter } from "./router";
import { startTheme } from "./shared/theme";
import "./main.css";

startTheme();
const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      // A refusal is final; a server out of reach is asked again.
      retry: (failures, error) => !(error instanceof ProblemError && error.problem.status > 0) && failures < 2,
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
        <Toaster position="bottom-right" duration={5000} />
      </QueryClientProvider>
    </StrictMode>,
  );
}
