import { useEffect, useState } from "react";

import Lookup from "../bookings/lookup";
import { startKey, type StartDraft } from "../drafts";
import CallBackForm from "../calls/call-back";
import { wishedKey } from "../calls/wished";
import { Tickets } from "../parts";
import { withWords } from "../parts-words";
import type { PanelStore } from "../store";
import { keepJSON, kept, keptJSON } from "../../../shared/storage";
import FrontShown from "./front";
import "./help.css";

const Front = withWords(FrontShown);
const CallBack = withWords(CallBackForm);
const Booking = withWords(Lookup);

/** What it needs. */
export interface BeforeProps {
  store: PanelStore;
  /** The visitor looks up a booking. */
  booking: boolean;
  look: (looking: boolean) => void;
  /** Nobody can answer now. */
  message: boolean;
}

/** What a visitor can do by themselves before they write to somebody. */
export default function Before({ store, booking, look, message }: BeforeProps) {
  // What was looked for is there again after a booking was looked up, and it is what the
  // visitor would ask somebody.
  const [words, setWords] = useState("");
  const { widget } = store.state;
  useEffect(() => {
    if (!booking && !widget?.help) store.another(); // it was taken away meanwhile
  }, [store, booking, widget]);
  const [calling, setCalling] = useState(false);
  if (calling) return <CallBack store={store} back={() => setCalling(false)} />;
  if (booking) return <Booking store={store} look={look} />;
  const write = () => {
    const at = startKey(store.key);
    const draft = keptJSON<StartDraft>(at, { name: store.state.name, email: store.state.email, text: "" });
    if (words.trim() && !draft.text) keepJSON(at, { ...draft, text: words.trim() });
    store.another();
  };
  return (
    <>
      <Front
        store={store}
        message={message}
        words={words}
        search={setWords}
        write={write}
        look={look}
        call={() => setCalling(true)}
      />
      {kept(wishedKey(store.key)) ? <Tickets store={store} /> : null}
    </>
  );
}
