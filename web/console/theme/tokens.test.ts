import { expect, it } from "vitest";

import { themeFor } from "./theme";
import { tokens } from "./tokens";

it("makes both themes from the tokens alone", () => {
  for (const mode of ["light", "dark"] as const) {
    const theme = themeFor(mode);
    expect(theme.palette.primary.main).toBe(tokens[mode]["brick-fill"]);
    expect(theme.palette.background.default).toBe(tokens[mode].paper);
  }
  expect(tokens.light.paper).not.toBe(tokens.dark.paper);
  expect(tokens.dark["fs-base"]).toBe(tokens.light["fs-base"]);
});
