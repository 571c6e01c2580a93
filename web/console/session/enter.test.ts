import { QueryClient } from "@tanstack/react-query";
import { expect, it } from "vitest";

import { idris } from "../desk/fake-desk";
import { enter } from "./enter";

it("forgets what the one before had asked for, and knows who is in now", () => {
  const queries = new QueryClient();
  queries.setQueryData(["me"], null);
  queries.setQueryData(["about", "wren"], { contact: { email: "wren@example.com" } });
  queries.setQueryData(["transcripts", "insults"], { hits: [{}] });
  enter(queries, idris);
  expect(queries.getQueryData(["me"])).toBe(idris);
  expect(queries.getQueryCache().getAll()).toHaveLength(1);
});
