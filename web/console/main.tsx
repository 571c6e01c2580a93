import "./kit/nonce";

import { speak } from "../shared/speak";
import { chosenLanguage } from "./words/chosen";

// Only now, since what is loaded here writes styles as soon as it is there, and
// says its words as soon as it is read.
void (async () => {
  const language = chosenLanguage();
  const { messages } = await import(`../locales/console/${language}.po`);
  speak(language, messages);
  await import("./start");
})();
