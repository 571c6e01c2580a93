/** Where it is kept that this browser's visitor asked for a call: their requests are shown to them. */
export function wishedKey(key: string): string {
  return `stoop.${key}.wished`;
}
