import CardShown from "./bookings/card";
import { withWords } from "./parts-words";
import SurveyForm from "./survey/survey";
import BeganNote from "./translated/began";
import OriginalWords from "./translated/original";

export const Card = withWords(CardShown);
/** A machine translates from here on. */
export const TranslationBegan = withWords(BeganNote);
/** Words as they were before a machine translated them. */
export const Original = withWords(OriginalWords);
/** How a chat was. */
export const Survey = withWords(SurveyForm);
