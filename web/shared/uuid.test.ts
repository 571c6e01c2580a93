import { expect, it } from "vitest";

import { uuid } from "./uuid";

it("makes UUIDs of version 4, each another", () => {
  const made = new Set(Array.from({ length: 500 }, uuid));
  expect(made.size).toBe(500);
  for (const id of made)
    expect(id).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
});
