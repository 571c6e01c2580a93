// How the team stands, in a line: on the launcher, and at the head of the panel.

/** How the team stands. */
export interface State {
  state: string;
  in: string[];
  opensAt?: string;
}

/** Puts values, in their order, into what stands in braces. */
export function fill(text: string | undefined, ...values: (string | number)[]): string {
  let at = 0;
  return (text ?? "").replace(/\{\w+\}/g, () => String(values[at++]));
}

/** Says how the team stands, in the words of the widget. */
export function stands(words: Record<string, string>, { state, in: names, opensAt }: State): string {
  const say = (key: string, ...values: (string | number)[]) => fill(words[`stands.${key}`], ...values);
  if (state === "closed") {
    if (!opensAt) return say("leave");
    const when = { weekday: "short", hour: "2-digit", minute: "2-digit" } as const;
    return say("back", new Date(opensAt).toLocaleString(words.locale, when));
  }
  const busy = state === "busy" ? "Busy" : "";
  const [first = "", second = ""] = names;
  if (names.length > 2) return say(`many${busy}`, first, names.length - 1);
  return names.length > 1 ? say(`two${busy}`, first, second) : say(`${first ? "one" : "none"}${busy}`, first);
}
