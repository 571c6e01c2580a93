import { lazy, type ComponentType } from "react";

import { language, sayAlso } from "../../../shared/speak";
import CardShown from "./card";
import LookupForm from "./lookup";

/** Gives a part that few visitors need, when the texts of these parts are there. */
function withWords<Props extends object>(part: ComponentType<Props>) {
  return lazy(async () => {
    const { messages } = await import(`../../../locales/bookings/${language()}.po`);
    sayAlso(messages);
    return { default: part };
  });
}

export const Card = withWords(CardShown);
export const Lookup = withWords(LookupForm);
