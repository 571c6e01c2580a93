import { money } from "../../shared/money";
import type { CardView } from "../../shared/types";

/** Something of the booking system as it was sent, with its price then. */
export function CardShown({ card }: { card: CardView }) {
  return (
    <div className="card-shown">
      <b dir="auto">{card.title}</b>
      {card.price ? <span className="price">{money(card.price)}</span> : null}
      {(card.lines ?? []).map((line, i) => (
        <p key={i} dir="auto">
          {line}
        </p>
      ))}
      {card.link ? (
        <a href={card.link} target="_blank" rel="noopener noreferrer" className="cut">
          {card.link.replace(/^https?:\/\//, "")}
        </a>
      ) : null}
    </div>
  );
}
