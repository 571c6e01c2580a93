import { t } from "@lingui/core/macro";
import { useState } from "react";

import { useListed, useMe, useTeam } from "../desk/provider";
import { calls, offers as offering, waiting } from "../desk/store/lists";

/**
 * Reads out what arrives: offers, calls for help and whoever begins to wait.
 * Whoever does not see the line hears of an offer while there is time to take it.
 */
export function Heard() {
  const me = useMe();
  const loaded = useTeam((s) => s.loaded);
  const offers = useListed(offering).map((c) => ({
    id: `offer-${c.id}`,
    words:
      c.handingTo === me.id
        ? t`${c.ownerName ?? t`A colleague`} hands ${c.name || t`a visitor`} on to you.`
        : t`${c.name || t`A visitor`} is offered to you.`,
  }));
  const called = useListed(calls).map((c) => ({
    id: `call-${c.id}`,
    words: t`${c.ownerName ?? t`A colleague`} asks for help with ${c.name || t`a visitor`}.`,
  }));
  const waits = useListed(waiting).map((c) => ({
    id: `wait-${c.id}`,
    words: t`${c.name || t`A visitor`} is waiting for ${c.departmentName}.`,
  }));
  // An offer that is there already runs out as any other.
  const urgent = useNew([...offers, ...called], loaded, true);
  const calm = useNew(waits, loaded, false);
  return (
    <>
      <p className="sr-only" role="alert" aria-label={t`Offers and calls`}>
        {urgent}
      </p>
      <p className="sr-only" role="status" aria-label={t`Arrivals`}>
        {calm}
      </p>
    </>
  );
}

/** Returns the words of what was not there before, until something else is new. */
function useNew(list: { id: string; words: string }[], loaded: boolean, atOnce: boolean): string {
  const [known, setKnown] = useState<ReadonlySet<string> | undefined>();
  const [said, setSaid] = useState("");
  const ids = list.map((one) => one.id);
  const same = known?.size === ids.length && ids.every((id) => known.has(id));
  if (loaded && !same) {
    // What was there at the start is no news, unless it is told at once.
    const fresh = known ? list.filter((one) => !known.has(one.id)) : atOnce ? list : [];
    setKnown(new Set(ids));
    if (fresh.length > 3) setSaid(t`${fresh.length} new: ${fresh[0]?.words ?? ""}`);
    else if (fresh.length > 0) setSaid(fresh.map((one) => one.words).join(" "));
    else if (ids.length === 0) setSaid("");
  }
  return said;
}
