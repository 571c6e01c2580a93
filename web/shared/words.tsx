import { Fragment } from "react";

// Web addresses as people paste them. A full recogniser of bare domains weighs
// as much as a third of the panel; see docs/decisions.
const address = /(?:https?:\/\/|www\.)[^\s<>"“”]+/giu;
const closing = /[.,;:!?'’)\]}]+$/u;

export interface Piece {
  text: string;
  href?: string;
}

/** Splits words into plain pieces and web addresses. Only http and https become links. */
export function pieces(text: string): Piece[] {
  const found: Piece[] = [];
  let from = 0;
  for (const match of text.matchAll(address)) {
    const shown = withoutClosing(match[0]);
    const href = hrefOf(shown);
    if (!href) continue;
    if (match.index > from) found.push({ text: text.slice(from, match.index) });
    found.push({ text: shown, href });
    from = match.index + shown.length;
  }
  if (from < text.length) found.push({ text: text.slice(from) });
  return found;
}

/** Takes off what ends the sentence rather than the address; a bracket opened within stays. */
function withoutClosing(shown: string): string {
  let cut = shown.replace(closing, "");
  if (shown.charAt(cut.length) === ")" && count(cut, "(") > count(cut, ")")) cut += ")";
  return cut;
}

function count(text: string, character: string): number {
  return text.split(character).length - 1;
}

function hrefOf(shown: string): string | undefined {
  try {
    const url = new URL(/^www\./i.test(shown) ? `https://${shown}` : shown);
    return url.hostname.includes(".") || url.hostname === "localhost" ? url.href : undefined;
  } catch {
    return undefined;
  }
}

/** Words as somebody wrote them: never markup, line breaks kept, addresses made links. */
export function Words({ text, mark }: { text: string; mark?: (text: string) => React.ReactNode }) {
  return (
    <>
      {pieces(text).map((piece, i) => (
        <Fragment key={i}>
          {piece.href ? (
            <a href={piece.href} target="_blank" rel="noopener noreferrer nofollow">
              {mark ? mark(piece.text) : piece.text}
            </a>
          ) : mark ? (
            mark(piece.text)
          ) : (
            piece.text
          )}
        </Fragment>
      ))}
    </>
  );
}
