import "./theme/tokens.css";
import "./base.css";

import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";

import { mayRetry, sayProblemsBy } from "../shared/problem";
import { App } from "./app";
import { language } from "../shared/speak";
import { laterModule } from "./kit/later";
import { Hints } from "./kit/hint";
import { nonce } from "./kit/nonce";
import { Says } from "./kit/says";
import { mirrored } from "./theme/mirrored";
import { ModeProvider } from "./theme/mode";

// In English the server says them itself.
if (language() !== "en")
  void laterModule(() => Promise.all([import("./words/problems"), import("./words/fields")])).then(
    ([{ problemWords }, { fieldWords }]) => sayProblemsBy(problemWords, fieldWords),
  );

const cache = createCache({ key: "stoop", nonce, ...(await mirrored()) });
const queries = new QueryClient({
  defaultOptions: {
    queries: { retry: (count, error) => mayRetry(error) && count < 3, refetchOnWindowFocus: false },
  },
});

// Keeps our own files, so that the console opens without a network.
void navigator.serviceWorker?.register("/worker.js").catch(() => undefined); // it works without

const root = document.getElementById("console");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <CacheProvider value={cache}>
        <ModeProvider>
          <QueryClientProvider client={queries}>
            <BrowserRouter>
              <App />
              <Says />
              <Hints />
            </BrowserRouter>
          </QueryClientProvider>
        </ModeProvider>
      </CacheProvider>
    </StrictMode>,
  );
}
