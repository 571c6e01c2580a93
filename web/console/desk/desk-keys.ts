import { useEffect, useRef } from "react";

import { holds } from "../keyboard/acts";
import { behindDialog, useAct } from "../keyboard/keyboard";
import { idsOf, useDeskStore, useListed } from "./provider";
import { calls, offers, waiting } from "./store/lists";

/** Acts on the line, from the keyboard. */
export function useDeskActs(): void {
  const store = useDeskStore();
  const next = useListed((chats, me) => idsOf(waiting(chats, me).filter((c) => !c.offeredTo)))[0];
  const offer = useListed((chats, me) => idsOf(offers(chats, me)))[0];
  const call = useListed((chats, me) => idsOf(calls(chats, me)))[0];
  useAct("take-next", () => next && void store.acts.take(next), next !== undefined);
  useAct("take-offer", () => offer && void store.acts.take(offer), offer !== undefined);
  useAct("pass-offer", () => offer && void store.acts.pass(offer), offer !== undefined);
  useAct("help-team", () => call && void store.acts.join(call).catch(() => undefined), call !== undefined);
}

/** Alt and a number goes to the lane of this number. */
export function useLaneNumbers(go: (id: string) => void): void {
  const store = useDeskStore();
  const latest = useRef(go);
  useEffect(() => {
    latest.current = go;
  });
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const digit = holds(event) ? /^Digit([1-9])$/.exec(event.code)?.[1] : undefined;
      const lane = digit
        ? store.screen.lanes.list().find((id) => store.screen.lanes.numberOf(id) === Number(digit))
        : undefined;
      if (!lane) return;
      event.preventDefault();
      if (event.repeat || behindDialog()) return;
      latest.current(lane);
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [store]);
}
