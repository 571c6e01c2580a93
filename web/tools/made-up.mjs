// The made-up languages: English in long accented words, for finding what is not
// translated, cut off, or on the wrong side.
import { readFile, writeFile } from "node:fs/promises";

const accents = { a: "á", b: "ƀ", c: "ç", d: "ð", e: "é", f: "ƒ", g: "ĝ", h: "ĥ", i: "í", j: "ĵ", k: "ķ", l: "ļ", m: "ɱ", n: "ñ", o: "ö", p: "þ", q: "ǫ", r: "ŕ", s: "š", t: "ţ", u: "û", v: "ṽ", w: "ŵ", x: "ẋ", y: "ý", z: "ž" }; // prettier-ignore

function accented(text) {
  const letters = [...text].map((c) => {
    const small = c.toLowerCase();
    const made = accents[small] ?? c;
    return c === small ? made : made.toUpperCase();
  });
  return letters.join("");
}

/** Makes a text up: what stands in braces and angle brackets is kept, plurals are made up within. */
export function madeUp(text) {
  const body = walk(text, 0, false).out;
  // Other languages need a third more room; short words need more still.
  const longer = Math.ceil(text.replace(/<[^>]*>|\{[^}]*\}/g, "").length * (text.length < 12 ? 0.6 : 0.35));
  return `${body}${longer > 0 ? ` ${"ö".repeat(longer).replace(/.{9}/g, "$& ")}` : ""}`.trimEnd();
}

// Goes through ICU MessageFormat: {name}, {n, plural, one {…} other {…}}, <0>…</0>.
function walk(text, from, nested) {
  let out = "";
  let plain = "";
  let at = from;
  const flush = () => {
    out += accented(plain);
    plain = "";
  };
  while (at < text.length) {
    const c = text[at];
    if (c === "}" && nested) break;
    if (c === "<") {
      flush();
      const end = text.indexOf(">", at) + 1;
      out += text.slice(at, end);
      at = end;
    } else if (c === "{") {
      flush();
      const plural = /^\{(\w+), plural,/.exec(text.slice(at));
      if (!plural) {
        const end = text.indexOf("}", at) + 1;
        out += text.slice(at, end);
        at = end;
        continue;
      }
      out += plural[0];
      at += plural[0].length;
      while (text[at] !== "}") {
        const form = /^\s*(=?\w+)\s*\{/.exec(text.slice(at));
        if (!form) {
          out += text[at++];
          continue;
        }
        out += form[0];
        const inner = walk(text, at + form[0].length, true);
        out += `${inner.out}}`;
        at = inner.at + 1;
      }
      out += "}";
      at++;
    } else {
      plain += c;
      at++;
    }
  }
  flush();
  return { out, at };
}

/** Writes the catalogues of the made-up languages of a folder from its English one. */
export async function makeUp(folder) {
  const english = await readFile(`${folder}/en.po`, "utf8");
  for (const language of ["en-XA", "ar-XB"]) {
    const entries = english.split("\n\n").map((entry, i) => {
      if (i === 0) return entry.replace(/"Language: en\\n"/, `"Language: ${language}\\n"`);
      // Of some texts the id is a key of their own.
      const text = read(entry, "msgid") && read(entry, "msgstr");
      return text
        ? entry.replace(/^msgstr (?:".*"\n?)+$/m, `msgstr ${JSON.stringify(madeUp(text))}\n`).trimEnd()
        : entry;
    });
    await writeFile(`${folder}/${language}.po`, `${entries.join("\n\n").trimEnd()}\n`);
  }
}

function read(entry, field) {
  const match = new RegExp(`^${field} ((?:".*"\\n?)+)`, "m").exec(entry);
  if (!match) return "";
  return match[1]
    .trim()
    .split("\n")
    .map((line) => JSON.parse(line))
    .join("");
}
