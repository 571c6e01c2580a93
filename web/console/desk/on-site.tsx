import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { Link } from "react-router";

import { clock } from "../../shared/format";
import type { GuestView } from "../../shared/types";
import { basketMoney } from "../guests/basket-money";
import { guestName, placeWords } from "../guests/words";
import { useLooking, useSeen } from "../guests/looking";
import { useNow } from "./provider";

/** Under which the line looks at the visitors. */
const look = "line";
const shown = 4;

/** The line's third part: who is on the site and not served, the most interesting first. */
export default function OnSite() {
  const [pointed, setPointed] = useState(false);
  useLooking({
    id: look,
    states: ["browsing", "idle", "invited"],
    sort: "interest",
    from: 0,
    to: shown,
    steady: pointed,
  });
  const loaded = useSeen(look, (s) => s.loaded);
  const total = useSeen(look, (s) => s.total);
  const order = useSeen(look, (s) => s.order);
  const guests = useSeen(look, (s) => s.guests);
  return (
    <section
      aria-labelledby="site-head"
      className="on-site"
      onPointerEnter={() => setPointed(true)}
      onPointerLeave={() => setPointed(false)}
    >
      <header>
        <h2 id="site-head">
          <Trans>On the site</Trans>
        </h2>
        <span className="count">{total}</span>
        <Link to="/visitors">
          <Trans>All visitors</Trans>
        </Link>
      </header>
      {order.length > 0 ? (
        <ul aria-label={t`On the site`}>
          {order.slice(0, shown).map((id) => {
            const guest = guests.get(id);
            return guest ? <Guest key={id} guest={guest} /> : null;
          })}
        </ul>
      ) : (
        <p className="nothing">
          {!loaded
            ? t`Looking who is there`
            : total > 0
              ? plural(total, { one: "# visitor, and served", other: "# visitors, all served" })
              : t`Nobody is on the site.`}
        </p>
      )}
    </section>
  );
}

function Guest({ guest }: { guest: GuestView }) {
  const now = useNow();
  const time = clock(now - Date.parse(guest.startedAt));
  const where = placeWords(guest.place);
  return (
    <li>
      <Link to={`/visitors?visitor=${guest.id}`}>
        <span className="row">
          <span className="cut" dir="auto">
            {guest.name ? <b>{guestName(guest)}</b> : guest.pageTitle || guest.pageUrl}
          </span>
          <span className="clock">{guest.basket ? basketMoney(guest.basket) : ""}</span>
        </span>
        <span className="row meta">
          <span className="cut clock">{where ? t`${where} · ${time} on site` : t`${time} on site`}</span>
          <span className="invites">
            {guest.state === "invited" ? t`invited` : guest.state === "gone" ? t`left` : t`Invite`}
          </span>
        </span>
      </Link>
    </li>
  );
}
