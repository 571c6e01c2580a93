import "./theme/tokens.css";
import "./base.css";

import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";

import { mayRetry } from "../shared/problem";
import { App } from "./app";
import { Hints } from "./kit/hint";
import { nonce } from "./kit/nonce";
import { Says } from "./kit/says";
import { ModeProvider } from "./theme/mode";

const cache = createCache({ key: "stoop", nonce });
const queries = new QueryClient({
  defaultOptions: {
    queries: { retry: (count, error) => mayRetry(error) && count < 3, refetchOnWindowFocus: false },
  },
});

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
