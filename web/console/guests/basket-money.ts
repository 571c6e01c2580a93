import { money } from "../../shared/money";
import type { BasketView } from "../../shared/types";

/** An amount in a basket; one without a currency is a number. */
export function basketMoney(basket: Pick<BasketView, "cents" | "currency">): string {
  const { cents, currency } = basket;
  return currency ? money({ cents, currency }) : (cents / 100).toFixed(2);
}
