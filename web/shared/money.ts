import { locale } from "./speak";

/** An amount in the smallest unit of its currency: cents of a euro, whole yen. */
interface Amount {
  cents: number;
  currency: string;
}

// To make a format takes as long as to draw a line of a table; there are few of them.
const formats = new Map<string, Intl.NumberFormat>();

function formatOf(currency: string): Intl.NumberFormat {
  const name = `${locale()} ${currency}`;
  let format = formats.get(name);
  if (!format) {
    format = new Intl.NumberFormat(locale(), { style: "currency", currency });
    formats.set(name, format);
  }
  return format;
}

/** Returns how many digits a currency has behind the point: 2 for euros, none for yen (ISO 4217). */
export function digitsOf(currency: string): number {
  return formatOf(currency).resolvedOptions().maximumFractionDigits ?? 2;
}

/** Returns an amount of money, like €412.80. */
export function money({ cents, currency }: Amount): string {
  return formatOf(currency).format(cents / 10 ** digitsOf(currency));
}

/** Returns an amount as it is typed, like 412.80. */
export function plainAmount({ cents, currency }: Amount): string {
  const digits = digitsOf(currency);
  return (cents / 10 ** digits).toFixed(digits);
}

/** Reads an amount that somebody typed, with point or comma; nothing when it is none of the currency. */
export function centsOf(text: string, currency: string): number | undefined {
  const digits = digitsOf(currency);
  const match = /^\s*(\d{1,9})(?:[.,](\d{1,3}))?\s*$/.exec(text);
  const fraction = match?.[2] ?? "";
  if (!match || fraction.length > digits) return undefined;
  return Number(match[1]) * 10 ** digits + Number(fraction.padEnd(digits, "0") || 0);
}
