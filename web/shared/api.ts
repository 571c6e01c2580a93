import createClient from "openapi-fetch";

import type { paths } from "./api.gen";
import { LostError, ProblemError } from "./problem";
import type { Problem } from "./types";

// A little longer than the server works on anything, in milliseconds: what is not
// answered by then was lost with its connection, and nobody may wait for it.
const patience = 45_000;

/** The typed HTTP interface of the server that served this page. */
export const api = createClient<paths>({
  baseUrl: location.origin,
  fetch: (request) => fetch(request, { signal: AbortSignal.timeout(patience) }),
});

/** Returns the data of an answer; throws a ProblemError or a LostError. */
export async function ask<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let got: Awaited<typeof answer>;
  try {
    got = await answer;
  } catch {
    throw new LostError();
  }
  if (got.response.ok) return got.data as T;
  const problem = got.error as Partial<Problem> | undefined;
  // Something in between answered: a proxy whose server is gone.
  if (!problem?.code) throw new LostError();
  throw new ProblemError(problem as Problem);
}
