import { expect, it } from "vitest";

import { fieldWords } from "./fields";
import { sentenceWords } from "./sentences";

it.each([
  "Monday from 08:00 to 12:00 overlaps 10:00 to 14:00. Make one period of both.",
  "08:00 to 12:00 overlaps 10:00 to 14:00. Make one period of both.",
  "Sunday from 09:00 to 10:00 stands there twice.",
  "There is no placeholder {bookng}. Use one from the list, or write {{ for a brace.",
  "“}” is not a placeholder and would be sent as it is. Use one from the list, or write {{ for a brace.",
  "Bookings is still used by the rule “Freight, by page”, the overflow of Travel help, the widget Kelpwick. Change that first.",
  "This file cannot be used: more than 500 lines are wrong.",
  "“Watch, early” was left out: it is in Europe/Oslo, the others are in Europe/Copenhagen.",
  "The overflow runs in a circle: Bookings → Freight → Bookings. Take one step out.",
  'The pattern "(" cannot be read: missing closing ): `(`.',
])("says %s with its values where they belong", (words) => {
  expect(sentenceWords(words)).toBe(words);
  expect(fieldWords(words)).toBe(words);
});

it("does not know what the server never says", () => {
  expect(sentenceWords("Something else is wrong.")).toBeUndefined();
});
