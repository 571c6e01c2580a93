import { lazy, type ComponentType } from "react";

import { language, sayAlso } from "../../shared/speak";

const againAfter = 2000;

/** Loads the texts of these parts, however long it takes: meanwhile there are plain words. */
async function words(): Promise<void> {
  for (;;) {
    try {
      const { messages } = await import(`../../locales/parts/${language()}.po`);
      return sayAlso(messages);
    } catch {
      await new Promise((later) => setTimeout(later, againAfter));
    }
  }
}

/** Gives a part that few visitors need, when the texts of these parts are there. */
export function withWords<Props extends object>(part: ComponentType<Props>) {
  return lazy(async () => {
    await words();
    return { default: part };
  });
}
