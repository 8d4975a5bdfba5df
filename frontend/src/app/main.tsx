/* Where the pages begin. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Outlet, RouterProvider } from "react-router";
import { Toaster } from "sonner";
import { ProblemError } from "../api/client";
import { Home } from "../home/Home";
import { Gate } from "../people/Gate";
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
  { path: "/welcome", lazy: async () => ({ Component: (await import("../people/Welcome")).Welcome }) },
  {
    element: (
      <CommandProvider>
        <GuideProvider>
          <Gate>
            <Outlet />
          </Gate>
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
      {
        path: "/runs/:run/readings",
        lazy: async () => ({ Component: (await import("../intake/ReplaceReadings")).ReplaceReadings }),
      },
      { path: "/compare", lazy: async () => ({ Component: (await import("../compare/Compare")).Compare }) },
      { path: "/runs/:run", lazy: async () => ({ Component: (await import("../run/RunPage")).RunPage }) },
      { path: "/methods", lazy: async () => ({ Component: (await import("../methods/Methods")).Methods }) },
      {
        path: "/methods/:method/batch",
        lazy: async () => ({ Component: (await import("../batches/NewBatch")).NewBatch }),
      },
      {
        path: "/methods/:method/:tab?",
        lazy: async () => ({ Component: (await import("../methods/MethodPage")).MethodPage }),
      },
      { path: "/batches", lazy: async () => ({ Component: (await import("../batches/Batches")).Batches }) },
      {
        path: "/batches/:batch",
        lazy: async () => ({ Component: (await import("../batches/BatchPage")).BatchPage }),
      },
      { path: "/account", lazy: async () => ({ Component: (await import("../people/Account")).Account }) },
      { path: "/people", lazy: async () => ({ Component: (await import("../people/People")).People }) },
      { path: "/ledger", lazy: async () => ({ Component: (await import("../people/LabLedger")).LabLedger }) },
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
