import CardShown from "./bookings/card";
import { withWords } from "./parts-words";
import SurveyForm from "./survey/survey";
import AlongPart from "./along/strip";
import PageOfferCard from "./shown/offer";
import PageShownStrip from "./shown/strip";
import GoOnPart from "./ways/go-on";
import TicketsPart from "./tickets/tickets";
import BeganNote from "./translated/began";
import OriginalWords from "./translated/original";

export const Card = withWords(CardShown);
/** Whether the team may see the page, and that they do. */
export const AlongStrip = withWords(AlongPart);
/** A page that the team offers to show. */
export const PageOffer = withWords(PageOfferCard);
/** What stands over the composer while a page is shown. */
export const PageStrip = withWords(PageShownStrip);
/** Whether the conversation goes on by text message or mail. */
export const GoOn = withWords(GoOnPart);
/** What the team still does for the visitor. */
export const Tickets = withWords(TicketsPart);
/** A machine translates from here on. */
export const TranslationBegan = withWords(BeganNote);
/** Words as they were before a machine translated them. */
export const Original = withWords(OriginalWords);
/** How a chat was. */
export const Survey = withWords(SurveyForm);
