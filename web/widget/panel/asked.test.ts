import { expect, it } from "vitest";

import raw from "../../../core/form/testdata/asked.json";
import type { FieldView } from "../../shared/types";
import { asked } from "./asked";

interface List {
  form: FieldView[];
  cases: { answers: Record<string, string>; asked: string[] }[];
}

const list = raw as List;

it("asks for the fields that the server asks for, with each set of answers", () => {
  expect(list.cases.length).toBeGreaterThan(5);
  for (const c of list.cases)
    expect(
      asked(list.form, (f) => c.answers[f.name] ?? "").map((f) => f.name),
      JSON.stringify(c.answers),
    ).toEqual(c.asked);
});
