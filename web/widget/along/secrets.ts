// What never leaves a page that is looked along at: passwords, what pays, and what the site
// marks with data-stoop-private.

/** Fields whose names say that what stands in them is not to be seen. */
const telling =
  /passwor[dt]|passcode|passphrase|kennwort|mot.?de.?passe|contrase|secret|token|\bpin\b|cvc|cvv|csc|security.?code|card.?(num|no\b|code|holder)|cc.?(num|exp|csc|name)|kreditkart|kartennummer|kortnum|expir|iban|\bbic\b|account.?(num|no\b)|kontonum|\bssn\b|social.?security/i;

/** By HTML's names for autofill, what pays or opens something. */
const autofilled = /\bcc-|(current|new)-password|one-time-code|transaction-/;

const marked = "[data-stoop-private]";
const mask = "•";
const secretsKept = 300;
/** Shorter values are masked where they stand, and not looked for elsewhere: they are everywhere. */
const secretFrom = 4;

type Field = HTMLInputElement | HTMLTextAreaElement | HTMLSelectElement;

function isField(element: Element): element is Field {
  return /^(input|textarea|select)$/i.test(element.tagName);
}

// A password field that shows what was typed is a text field from then on: it stays private.
const once = new WeakSet<Element>();

/** Reports whether what stands in a field never leaves the page. */
export function isPrivate(element: Element): boolean {
  if (once.has(element)) return true;
  const type = element.getAttribute("type")?.toLowerCase() ?? "";
  const labels = isField(element) ? [...(element.labels ?? [])].map((l) => l.textContent).join(" ") : "";
  const named = ["name", "id", "placeholder", "aria-label", "title"]
    .map((n) => element.getAttribute(n) ?? "")
    .join(" ");
  const hides =
    type === "password" ||
    type === "hidden" ||
    autofilled.test(element.getAttribute("autocomplete") ?? "") ||
    telling.test(`${named} ${labels}`) ||
    element.closest(marked) !== null;
  if (hides) once.add(element);
  return hides;
}

/** Puts dots in the place of all but the length. */
export function masked(text: string): string {
  return mask.repeat(Math.min(text.length, 20));
}

const digits = /\d(?:[ -]?\d){12,18}/g;

/** Reports whether digits are a card's number, by the check digit of ISO/IEC 7812 (Luhn). */
export function isCard(number: string): boolean {
  let sum = 0;
  const all = number.replace(/\D/g, "");
  for (let i = 0; i < all.length; i++) {
    let digit = Number(all[all.length - 1 - i]);
    if (i % 2 === 1 && (digit *= 2) > 9) digit -= 9;
    sum += digit;
  }
  return all.length >= 13 && all.length <= 19 && sum % 10 === 0;
}

/** Masks numbers of cards in a text. */
export function withoutCards(text: string): string {
  return text.replace(digits, (found) => (isCard(found) ? found.replace(/\d/g, mask) : found));
}

// Where the page is drawn anew, its site's fonts are not let in: they would only be refused.
function withoutFonts(text: string): string {
  return text.includes("@font-face") ? text.replace(/@font-face\s*\{[^}]*\}/g, "") : text;
}

/** What is known to stand in private fields, so that it is found wherever else it turns up. */
export class Secrets {
  private readonly values = new Set<string>();

  /** Reads what stands in the private fields of a page now, and what it came with. */
  gather(root: ParentNode): void {
    for (const field of root.querySelectorAll<Field>("input,textarea,select")) {
      if (!isPrivate(field)) continue;
      for (const value of [
        field.value,
        field.getAttribute("value") ?? "",
        "defaultValue" in field ? field.defaultValue : "",
      ])
        this.add(value);
    }
    for (const element of root.querySelectorAll(marked)) this.add(element.textContent ?? "");
  }

  private add(value: string): void {
    const text = value.trim();
    if (text.length < secretFrom) return;
    this.values.delete(text);
    this.values.add(text);
    if (this.values.size > secretsKept) this.values.delete([...this.values][0] ?? "");
  }

  /** Returns a copy of what is about to leave the page, with secrets masked in every text of it. */
  scrub<T>(value: T): T {
    return this.copy(value) as T;
  }

  private copy(value: unknown): unknown {
    if (typeof value === "string") return this.text(value);
    if (Array.isArray(value)) return value.map((v) => this.copy(v));
    if (value !== null && typeof value === "object")
      return Object.fromEntries(Object.entries(value).map(([name, v]) => [name, this.copy(v)]));
    return value;
  }

  private text(text: string): string {
    let out = withoutCards(withoutFonts(text));
    for (const secret of this.values) if (out.includes(secret)) out = out.split(secret).join(masked(secret));
    return out;
  }
}
