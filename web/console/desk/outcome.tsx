import "./later.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useId, useState } from "react";

import { centsOf, digitsOf, money, plainAmount } from "../../shared/money";
import type { ChatView } from "../../shared/types";
import { useKept } from "../forms/kept";
import { sayTrouble } from "../kit/say";
import { useDeskStore, useTeam } from "./provider";

/** How a chat came out: one of the team's outcomes, and the sale if there was one. */
export function Outcome({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const outcomes = useTeam((s) => s.outcomes);
  const currency = useTeam((s) => s.currency);
  // Only what is being typed; else the chat's own, which may change elsewhere.
  const [typed, setTyped, letGo] = useKept(`stoop.desk.sale.${chat.id}`);
  const [wrong, setWrong] = useState("");
  const group = useId();
  const all = chat.outcome && !outcomes.includes(chat.outcome) ? [...outcomes, chat.outcome] : outcomes;
  const digits = digitsOf(currency);
  const choose = (outcome: string) => store.acts.conclude(chat.id, { outcome }).catch(sayTrouble);
  const sell = () => {
    if (typed === null) return;
    const cents = typed.trim() === "" ? undefined : centsOf(typed, currency);
    if (typed.trim() !== "" && cents === undefined) {
      setWrong(t`Enter an amount like ${digits === 0 ? "412" : "412.80"}.`);
      return;
    }
    setWrong("");
    const stored = () => letGo(typed);
    if (cents === chat.sale?.cents) {
      stored();
      return;
    }
    store.acts
      .conclude(chat.id, cents === undefined ? { noSale: true } : { sale: { cents, currency } })
      .then(stored, sayTrouble);
  };
  return (
    <div className="outcome">
      <div role="radiogroup" aria-label={t`Outcome`} className="chips">
        {all.map((o) => (
          <label key={o}>
            <input type="radio" name={group} checked={chat.outcome === o} onChange={() => void choose(o)} />
            <span>{o}</span>
          </label>
        ))}
      </div>
      <label className="sale">
        <span>
          <Trans>Sale, {currency}</Trans>
        </span>
        <input
          inputMode="decimal"
          value={typed ?? (chat.sale ? plainAmount(chat.sale) : "")}
          placeholder={t`none`}
          maxLength={13}
          aria-invalid={wrong !== ""}
          aria-describedby={wrong ? `${group}-wrong` : undefined}
          onChange={(e) => setTyped(e.target.value)}
          onBlur={sell}
          onKeyDown={(e) => {
            if (e.key === "Enter") sell();
          }}
        />
        {chat.sale ? <span className="kept">{money(chat.sale)}</span> : null}
      </label>
      {wrong ? (
        <p className="wrong" id={`${group}-wrong`} role="alert">
          {wrong}
        </p>
      ) : null}
    </div>
  );
}

/** One line in words; it is stored when the field is left. */
export function Summary({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  // It may stand in the lane and in About at once: both show the same words.
  const [typed, setTyped, letGo] = useKept(`stoop.desk.summary.${chat.id}`);
  const stored = chat.summary ?? "";
  const save = () => {
    if (typed === null) return;
    if (typed.trim() === stored) {
      setTyped(null);
      return;
    }
    store.acts.summarise(chat.id, typed.trim()).then(() => letGo(typed), sayTrouble);
  };
  return (
    <textarea
      className="summary"
      rows={2}
      value={typed ?? stored}
      maxLength={300}
      placeholder={t`What it was about, in one line`}
      aria-label={t`Summary`}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={save}
      onKeyDown={(e) => {
        if (e.key !== "Enter") return;
        e.preventDefault();
        e.currentTarget.blur();
      }}
    />
  );
}
