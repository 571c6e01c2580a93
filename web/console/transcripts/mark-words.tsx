import { Fragment, type ReactNode } from "react";

import type { Piece, Term } from "../../shared/types";

/** Draws pieces of a text; what was looked for is marked. */
export function Marked({ pieces }: { pieces: readonly Piece[] }): ReactNode {
  return pieces.map((piece, i) =>
    piece.hit ? (
      <mark className="hit" key={i}>
        {piece.text}
      </mark>
    ) : (
      <Fragment key={i}>{piece.text}</Fragment>
    ),
  );
}

/** Marks what was looked for in a text, as the server's search finds it. */
export function MarkWords({ text, terms }: { text: string; terms: readonly Term[] }): ReactNode {
  return <Marked pieces={splitAtTerms(text, terms)} />;
}

// Letters that a normal form does not take apart; the server's list is in core/search.
const letters: Record<string, string> = {
  ß: "ss",
  æ: "ae",
  œ: "oe",
  ø: "o",
  đ: "d",
  ð: "d",
  þ: "th",
  ł: "l",
  ħ: "h",
  ı: "i",
  ŋ: "n",
  ŧ: "t",
  ĸ: "q",
  "·": "",
  ʼ: "",
};

/** Returns a word as words are compared: in small letters and without accents. */
export function fold(word: string): string {
  return word
    .toLowerCase()
    .normalize("NFKD")
    .replace(/\p{Mn}/gu, "")
    .replace(/[ßæœøđðþłħıŋŧĸ·ʼ]/gu, (letter) => letters[letter] ?? letter)
    .toLowerCase();
}

interface Word {
  from: number;
  to: number;
  folded: string;
}

function wordsOf(text: string): Word[] {
  return [...text.matchAll(/[\p{L}\p{N}][\p{L}\p{N}\p{M}]*/gu)].map((m) => ({
    from: m.index,
    to: m.index + m[0].length,
    folded: fold(m[0]),
  }));
}

/** Splits a text into what some terms find and the rest. */
export function splitAtTerms(text: string, terms: readonly Term[]): Piece[] {
  if (terms.length === 0) return [{ text }];
  const words = wordsOf(text);
  const pieces: Piece[] = [];
  let done = 0;
  for (let i = 0; i < words.length; i++) {
    const n = Math.max(...terms.map((term) => standsAt(term, words, i)));
    const first = words[i];
    const last = words[i + n - 1];
    if (n === 0 || !first || !last) continue;
    if (first.from > done) pieces.push({ text: text.slice(done, first.from) });
    pieces.push({ text: text.slice(first.from, last.to), hit: true });
    done = last.to;
    i += n - 1;
  }
  if (done < text.length) pieces.push({ text: text.slice(done) });
  return pieces;
}

/** In how many words from one on a term stands; 0 if it does not. */
function standsAt(term: Term, words: readonly Word[], at: number): number {
  const stands = term.words.every((want, i) => {
    const got = words[at + i]?.folded;
    return (
      got === want ||
      (got !== undefined && term.prefix && i === term.words.length - 1 && got.startsWith(want))
    );
  });
  return stands ? term.words.length : 0;
}
