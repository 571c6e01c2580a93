import "./basket.css";

import { Trans } from "@lingui/react/macro";

import type { BasketView } from "../../shared/types";
import { Since } from "../desk/reply-clock";
import { basketMoney } from "./basket-money";

/** What lies in a visitor's basket now, and since when. */
export function Basket({ basket }: { basket: BasketView }) {
  const { currency } = basket;
  return (
    <section className="basket">
      <header>
        <h3>
          <Trans>Basket</Trans>
        </h3>
        <span>
          <Trans>
            for <Since at={basket.changedAt} />
          </Trans>
        </span>
      </header>
      <dl className="basket-lines">
        {(basket.lines ?? []).map((line, i) => (
          <div key={i}>
            <dt>{line.text}</dt>
            <dd dir="auto">{basketMoney({ cents: line.cents, ...(currency ? { currency } : {}) })}</dd>
          </div>
        ))}
        <div className="sum">
          <dt>
            <Trans>Total</Trans>
          </dt>
          <dd>{basketMoney(basket)}</dd>
        </div>
      </dl>
    </section>
  );
}
