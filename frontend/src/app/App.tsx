import { notifyManager, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { createRootRoute, createRoute, createRouter, Outlet, RouterProvider } from "@tanstack/react-router";
import { UnitsProvider } from "@/shared/units/units";
import { BenchStation } from "@/stations/bench/BenchStation";
import { CallPage } from "@/stations/bench/CallPage";
import { BuildStation } from "@/stations/build/BuildStation";
import { CareStation } from "@/stations/care/CareStation";
import { EvidencePage } from "@/stations/evidence/EvidencePage";
import { LayoutsStation } from "@/stations/layouts/LayoutsStation";
import { PartsStation } from "@/stations/parts/PartsStation";
import { PlanStation } from "@/stations/plan/PlanStation";
import { PracticePage } from "@/stations/practice/PracticePage";
import { SurveyStation } from "@/stations/survey/SurveyStation";
import { VerdictStation } from "@/stations/verdict/VerdictStation";
import { Home } from "./Home";
import { JobFrame } from "./JobFrame";

const root = createRootRoute({ component: Outlet, notFoundComponent: Home });
const home = createRoute({ getParentRoute: () => root, path: "/", component: Home });
const job = createRoute({ getParentRoute: () => root, path: "/jobs/$jobId", component: JobFrame });
const call = createRoute({ getParentRoute: () => root, path: "/call/$benchId", component: CallPage });
const practice = createRoute({ getParentRoute: () => root, path: "/practice", component: PracticePage });
const evidence = createRoute({ getParentRoute: () => root, path: "/evidence", component: EvidencePage });
const stations = [
  createRoute({ getParentRoute: () => job, path: "survey", component: SurveyStation }),
  createRoute({ getParentRoute: () => job, path: "parts", component: PartsStation }),
  createRoute({ getParentRoute: () => job, path: "layouts", component: LayoutsStation }),
  createRoute({ getParentRoute: () => job, path: "plan", component: PlanStation }),
  createRoute({ getParentRoute: () => job, path: "bench", component: BenchStation }),
  createRoute({ getParentRoute: () => job, path: "verdict", component: VerdictStation }),
  createRoute({ getParentRoute: () => job, path: "build", component: BuildStation }),
  createRoute({ getParentRoute: () => job, path: "care", component: CareStation }),
];

const router = createRouter({ routeTree: root.addChildren([home, call, practice, evidence, job.addChildren(stations)]) });
declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}

// An answer is drawn in the very turn it comes in, not after a timer.
notifyManager.setScheduler(queueMicrotask);

const queries = new QueryClient({
  defaultOptions: { queries: { refetchOnWindowFocus: false, retry: 1, networkMode: "always" } },
});

export function App() {
  return (
    <QueryClientProvider client={queries}>
      <UnitsProvider>
        <RouterProvider router={router} />
      </UnitsProvider>
    </QueryClientProvider>
  );
}
