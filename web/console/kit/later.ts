import { i18n } from "@lingui/core";
import { lazy, type ComponentType } from "react";

import { language } from "../../shared/speak";

let words: Promise<void> | undefined;

/** Loads the texts of all that is not on the first screen, once. */
function laterWords(): Promise<void> {
  words ??= import(`../../locales/later/${language()}.po`).then(
    ({ messages }) => i18n.load(language(), messages),
    (error: unknown) => {
      words = undefined; // tried again with the next part
      throw error;
    },
  );
  return words;
}

/**
 * A part of the console whose code comes when it is needed, after its texts.
 * What is not on the first screen is made known by this.
 */
// eslint-disable-next-line @typescript-eslint/no-explicit-any -- as React's own lazy
export function later<Part extends ComponentType<any>>(load: () => Promise<{ default: Part }>) {
  return lazy(() => laterModule(load));
}

/** Loads a module after the texts of all that is not on the first screen. */
export async function laterModule<Module>(load: () => Promise<Module>): Promise<Module> {
  return patiently(async () => {
    await laterWords();
    return load();
  });
}

// How long to wait before each further try, in milliseconds: while the server
// restarts, what it serves cannot come.
const pauses = [500, 1500, 4000, 8000];

async function patiently<Module>(load: () => Promise<Module>, tried = 0): Promise<Module> {
  try {
    return await load();
  } catch (error) {
    const pause = pauses[tried];
    if (pause === undefined) throw error;
    await new Promise((done) => setTimeout(done, pause));
    return patiently(load, tried + 1);
  }
}
