/* Where the pages begin. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Outlet, RouterProvider } from "react-router";
import { Toaster } from "sonner";
import { ProblemError } from "../api/client";
import { Home } from "../home/Home";
import { Pending } from "../ui/Message";
import { Broken } from "./Broken";
import { CommandProvider } from "./commands";
import { GuideProvider } from "./guide";
import { NotHere } from "./NotHere";
import { startTheme } from "./theme";
import "./tokens.css";

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      // A database that restarts is back within seconds: keep asking; anything else will not mend itself.
      retry: (_, error) => error instanceof ProblemError && error.passing,
      retryDelay: 1000,
      networkMode: "always",
      staleTime: 2000,
    },
    mutations: { networkMode: "always" },
  },
});

const router = createBrowserRouter([
  {
    element: (
      <CommandProvider>
        <GuideProvider>
          <Outlet />
        </GuideProvider>
      </CommandProvider>
    ),
    errorElement: <Broken />,
    hydrateFallbackElement: <Pending failure={null} onRetry={() => {}} />,
    children: [
      { path: "/", element: <Home /> },
      { path: "/studies/:study", element: <Home /> },
      // Loaded when they are gone to, so that the first page is there at once.
      {
        path: "/studies/:study/new",
        lazy: async () => ({ Component: (await import("../intake/NewRun")).NewRun }),
      },
      {
        path: "/runs/:run/intake",
        lazy: async () => ({ Component: (await import("../intake/Reopened")).Reopened }),
      },
      { path: "/runs/:run", lazy: async () => ({ Component: (await import("../run/RunPage")).RunPage }) },
      { path: "/api", lazy: async () => ({ Component: (await import("../reference/ApiPage")).ApiPage }) },
      { path: "*", element: <NotHere /> },
    ],
  },
]);

startTheme();
createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <Tooltip.Provider delayDuration={300}>
        <RouterProvider router={router} />
        <Toaster position="bottom-right" toastOptions={{ style: { fontFamily: "var(--font-sans)" } }} />
      </Tooltip.Provider>
    </QueryClientProvider>
  </StrictMode>,
);
