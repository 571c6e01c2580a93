import { msg } from "@lingui/core/macro";
import { useState } from "react";

import { money } from "../../../shared/money";
import { say } from "../../../shared/speak";
import type { CardView } from "../../../shared/types";

interface Props {
  card: CardView;
  /** The page around takes what is put in the basket. */
  takes: boolean;
  inBasket: boolean;
  use: (how: "opened" | "basket") => Promise<unknown>;
}

/** Something of the booking system: what it is, what it costs, and what can be done with it. */
export default function Card({ card, takes, inBasket, use }: Props) {
  const [took, setTook] = useState(false);
  const there = took || inBasket;
  return (
    <div className="words note">
      <b dir="auto">{card.title}</b>
      {card.price ? ` ${money(card.price)}` : null}
      {(card.lines ?? []).map((line, i) => (
        <p key={i} dir="auto">
          {line}
        </p>
      ))}
      <p>
        {card.basket && takes ? (
          <button
            className="go"
            disabled={there}
            onClick={() => {
              setTook(true);
              use("basket").catch(() => setTook(false)); // it can be pressed again
            }}
          >
            {there
              ? say(msg({ id: "booking.inBasket", message: `In the basket` }))
              : say(msg({ id: "booking.put", message: `Put in the basket` }))}
          </button>
        ) : null}{" "}
        {card.link ? (
          <a
            href={card.link}
            target="_blank"
            rel="noopener"
            onClick={() => void use("opened").catch(() => undefined)} // the page opens all the same
          >
            {say(msg({ id: "booking.open", message: `Open` }))}
          </a>
        ) : null}
      </p>
    </div>
  );
}
