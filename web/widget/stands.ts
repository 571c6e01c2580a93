// How the team stands, in a line: on the launcher, and at the head of the panel.

/** How the team stands. */
export interface State {
  state: string;
  in: string[];
  opensAt?: string;
  /** Nobody of the team is in; the helper answers. */
  helper?: boolean;
}

/** Puts values, in their order, into what stands in braces. */
export function fill(text: string | undefined, ...values: (string | number | undefined)[]): string {
  let at = 0;
  return (text ?? "").replace(/\{\w+\}/g, () => String(values[at++]));
}

/** Says how the team stands, in the words of the widget. */
export function stands(words: Record<string, string>, { state, in: names, opensAt, helper }: State): string {
  const say = (key: string, ...values: (string | number | undefined)[]) =>
    fill(words[`stands.${key}`], ...values);
  if (state === "closed") {
    if (!opensAt) return say("leave");
    const when = { weekday: "short", hour: "2-digit", minute: "2-digit" } as const;
    return say("back", new Date(opensAt).toLocaleString(words.locale, when));
  }
  const busy = state === "busy" ? "Busy" : "";
  const { length } = names;
  const who = helper ? "helper" : (["none", "one", "two"][length] ?? "many");
  return say(who + busy, names[0], length > 2 ? length - 1 : names[1]);
}
