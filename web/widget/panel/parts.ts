import CardShown from "./bookings/card";
import { withWords } from "./parts-words";
import SurveyForm from "./survey/survey";

export const Card = withWords(CardShown);
/** How a chat was. */
export const Survey = withWords(SurveyForm);
