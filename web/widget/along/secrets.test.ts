import { afterEach, expect, test } from "vitest";

import { isCard, isPrivate, Secrets, withoutCards } from "./secrets";

afterEach(() => document.body.replaceChildren());

const field = (html: string) => {
  document.body.innerHTML = html;
  const found = document.querySelector("input,select,textarea");
  if (!found) throw new Error("no field");
  return found;
};

// The numbers are those that ISO/IEC 7812's check digit accepts or not; the first three are
// test numbers that payment providers publish.
test.each([
  ["4242424242424242", true],
  ["378282246310005", true],
  ["5555 5555 5555 4444", true],
  ["4242424242424241", false],
  ["1234567890123456", false],
  ["4242", false],
  ["", false],
])("%s is a card's number: %s", (number, is) => {
  expect(isCard(number)).toBe(is);
});

test("masks cards within a text and leaves other numbers", () => {
  expect(withoutCards("Pay 4242-4242-4242-4242 for booking 20260917133300")).toBe(
    "Pay ••••-••••-••••-•••• for booking 20260917133300",
  );
});

test.each([
  '<input type="password">',
  '<input type="hidden" name="x">',
  '<input autocomplete="section-a cc-csc">',
  '<input autocomplete="one-time-code">',
  '<input name="cardNumber">',
  '<input id="card-no">',
  '<input placeholder="IBAN">',
  "<label>Security code <input></label>",
  '<textarea aria-label="Kennwort"></textarea>',
  '<fieldset data-stoop-private><input name="anything"></fieldset>',
])("%s is private", (html) => {
  expect(isPrivate(field(html))).toBe(true);
});

test.each([
  '<input name="passengers">',
  '<input name="boarding-card">',
  '<input name="discard">',
  '<input name="notes">',
  '<select name="port"><option>Sandry</option></select>',
])("%s is not", (html) => {
  expect(isPrivate(field(html))).toBe(false);
});

test("a password that is shown stays private", () => {
  const shown = field('<input type="password" name="x">');
  expect(isPrivate(shown)).toBe(true);
  shown.setAttribute("type", "text");
  expect(isPrivate(shown)).toBe(true);
});

test("what stands in a private field is masked wherever else it turns up", () => {
  document.body.innerHTML = '<input type="password" value="hunter22"><p data-stoop-private>My diagnosis</p>';
  const secrets = new Secrets();
  secrets.gather(document);
  const event = {
    data: { texts: ["You typed hunter22", "My diagnosis is"], attributes: { title: "x hunter22" }, id: 7 },
  };
  expect(secrets.scrub(event)).toEqual({
    data: { texts: ["You typed ••••••••", "•••••••••••• is"], attributes: { title: "x ••••••••" }, id: 7 },
  });
  expect(event.data.texts[0]).toBe("You typed hunter22"); // the page itself is not touched
});
