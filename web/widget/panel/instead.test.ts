import { i18n } from "@lingui/core";
import { expect, it } from "vitest";

import { sayAlso } from "../../shared/speak";
import { sayInstead, sayUsual } from "./instead";

const joined = () => i18n._("joined", { name: "Maren" });

it("puts the widget's words in the place of the usual ones, and takes them away again", () => {
  sayUsual("en", { joined: [["name"], " joined the chat"], "start.send": "Start chat" });
  sayInstead({ joined: "Ahoy, {name} is aboard", "start.send": "Cast off" });
  expect(joined()).toBe("Ahoy, Maren is aboard");
  expect(i18n._("start.send")).toBe("Cast off");
  sayInstead({ joined: "{name} is here" });
  expect(joined()).toBe("Maren is here");
  expect(i18n._("start.send")).toBe("Start chat");
});

it("keeps them over texts that come later, and gives those back", () => {
  sayUsual("en", { joined: "x" });
  sayInstead({ "survey.how": "How was the crossing?" });
  sayAlso({ "survey.how": "How was this chat?" });
  expect(i18n._("survey.how")).toBe("How was the crossing?");
  sayInstead({});
  expect(i18n._("survey.how")).toBe("How was this chat?");
});

it("forgets them with another language", () => {
  sayUsual("en", { joined: "joined" });
  sayInstead({ joined: "aboard" });
  sayUsual("da", { joined: "er kommet med" });
  expect(joined()).toBe("er kommet med");
});
