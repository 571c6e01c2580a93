import { LostError, ProblemError } from "../../shared/problem";

/** Asks the server something of a visitor's, outside the live connection. */
export async function ask<Answer>(path: string, body: object): Promise<Answer> {
  let answer: Response;
  try {
    answer = await fetch(path, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify(body),
      signal: AbortSignal.timeout(20_000),
    });
  } catch {
    throw new LostError();
  }
  const said: unknown = await answer.json();
  if (!answer.ok) throw new ProblemError(said as ConstructorParameters<typeof ProblemError>[0]);
  return said as Answer;
}
