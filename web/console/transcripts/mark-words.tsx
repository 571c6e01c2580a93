import { Fragment, type ReactNode } from "react";

/** Marks the words that were searched for, where words of the text begin with them. */
export function MarkWords({ text, words }: { text: string; words: string }): ReactNode {
  return splitAtWords(text, words).map((piece, i) =>
    piece.hit ? (
      <mark className="hit" key={i}>
        {piece.text}
      </mark>
    ) : (
      <Fragment key={i}>{piece.text}</Fragment>
    ),
  );
}

/** Splits a text into what was searched for and the rest, as the server's search matches: by beginnings of words. */
export function splitAtWords(text: string, words: string): { text: string; hit: boolean }[] {
  const terms = words.toLowerCase().split(/\s+/).filter(Boolean);
  if (terms.length === 0) return [{ text, hit: false }];
  const pieces: { text: string; hit: boolean }[] = [];
  let plain = "";
  let rest = text;
  while (rest) {
    const atWordStart = !/[\p{L}\p{N}]$/u.test(plain || (pieces.at(-1)?.text ?? ""));
    const term = atWordStart ? terms.find((t) => rest.toLowerCase().startsWith(t)) : undefined;
    if (term) {
      if (plain) pieces.push({ text: plain, hit: false });
      plain = "";
      const whole = /^[\p{L}\p{N}]*/u.exec(rest)?.[0] ?? "";
      const hit = whole.length > term.length ? whole : rest.slice(0, term.length);
      pieces.push({ text: hit, hit: true });
      rest = rest.slice(hit.length);
    } else {
      const step = /^(?:[\p{L}\p{N}]+|[^\p{L}\p{N}])/u.exec(rest)?.[0] ?? rest.charAt(0);
      plain += step;
      rest = rest.slice(step.length);
    }
  }
  if (plain) pieces.push({ text: plain, hit: false });
  return pieces;
}
