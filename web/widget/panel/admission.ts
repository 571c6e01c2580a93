import { LostError, ProblemError } from "../../shared/problem";
import type { Admission } from "../../shared/types";

/** Asks to be let in. Throws a ProblemError or a LostError. */
export async function admit(
  key: string,
  token: string,
  back: string,
  speaks: readonly string[],
): Promise<Admission> {
  let answer: Response;
  try {
    answer = await fetch(`/widget/${encodeURIComponent(key)}/admit`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({ token, back, speaks: speaks.filter(Boolean).slice(0, 10) }),
      signal: AbortSignal.timeout(20_000),
    });
  } catch {
    throw new LostError();
  }
  const body: unknown = await answer.json();
  if (!answer.ok) throw new ProblemError(body as ConstructorParameters<typeof ProblemError>[0]);
  return body as Admission;
}
