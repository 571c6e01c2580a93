import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";

import { api, ask } from "../shared/api";
import { mayRetry, ProblemError, wordsFor } from "../shared/problem";
import { DeskPage } from "./desk/desk";
import { DeskProvider } from "./desk/provider";
import { Frame } from "./frame/frame";
import { Keyboard } from "./keyboard/keyboard";
import { later } from "./kit/later";
import { Lazily } from "./kit/lazily";
import { enter } from "./session/enter";
import { Button } from "./kit/button";

// The Desk is the first screen; what is opened later comes later.
const FeedbackPage = later(() => import("./feedback/feedback"));
const TranscriptsPage = later(() => import("./transcripts/transcripts"));
const ReviewsPage = later(() => import("./reviews/reviews"));
const VisitorsPage = later(() => import("./visitors/visitors"));
const ContactsPage = later(() => import("./contacts/contacts"));
const TicketsPage = later(() => import("./tickets/tickets"));
const FloorPage = later(() => import("./floor/floor"));
const LibraryPage = later(() => import("./library/library"));
const LaneWindow = later(() => import("./desk/lane-window"));
const ReportsPage = later(() => import("./reports/reports"));
const SetupPage = later(() => import("./setup/setup"));
const Login = later(() => import("./session/login"));

/** The operators' application: the login, or the frame with its pages. */
export function App() {
  const queries = useQueryClient();
  const me = useQuery({
    queryKey: ["me"],
    queryFn: () => ask(api.GET("/api/me")),
    staleTime: Infinity,
    // Opened without a network, the console begins when there is one.
    refetchInterval: (query) => (query.state.error && mayRetry(query.state.error) ? 3000 : false),
  });
  const signedOut = useCallback(() => {
    // What is on screen stays until the login is there, drafts are kept.
    queries.setQueryData(["me"], null);
  }, [queries]);

  if (me.isPending) return null;
  const asksForLogin =
    me.data === null || (me.error instanceof ProblemError && me.error.problem.status === 401);
  // Whoever was invited joins as somebody else than this browser may be.
  if (asksForLogin || /^\/(join|begin)\//.test(location.pathname)) {
    return (
      <Lazily>
        <Login onDone={(operator) => enter(queries, operator)} />
      </Lazily>
    );
  }
  if (!me.data) {
    return (
      <main className="trouble" role="alert">
        <p>{wordsFor(me.error)}</p>
        <Button variant="contained" onClick={() => void me.refetch()}>
          <Trans>Try again</Trans>
        </Button>
      </main>
    );
  }
  return (
    <DeskProvider key={me.data.id} me={me.data} onSignedOut={signedOut}>
      <Keyboard>
        <Frame>
          <Pages />
        </Frame>
      </Keyboard>
    </DeskProvider>
  );
}

/** The page that the address names; one that cannot be loaded says so and leaves the others alone. */
function Pages() {
  const page = useLocation().pathname.split("/")[1] ?? "";
  return (
    <Lazily key={page} fallback={<main aria-busy="true" />}>
      <Routes>
        <Route path="/desk" element={<DeskPage />} />
        <Route path="/visitors" element={<VisitorsPage />} />
        <Route path="/contacts/:id?" element={<ContactsPage />} />
        <Route path="/tickets/:number?" element={<TicketsPage />} />
        <Route path="/floor" element={<FloorPage />} />
        <Route path="/library/*" element={<LibraryPage />} />
        <Route path="/lane/:id" element={<LaneWindow />} />
        <Route path="/setup/*" element={<SetupPage />} />
        <Route path="/feedback/:id?" element={<FeedbackPage />} />
        <Route path="/reports/*" element={<ReportsPage />} />
        <Route path="/reviews/:draw?/:id?" element={<ReviewsPage />} />
        <Route path="/transcripts/:id?" element={<TranscriptsPage />} />
        <Route path="*" element={<Navigate to="/desk" replace />} />
      </Routes>
    </Lazily>
  );
}
