import {
  lazy,
  Suspense,
  useCallback,
  useEffect,
  useRef,
  useState,
  useSyncExternalStore,
  type ComponentType,
  type CSSProperties,
} from "react";

import { initials } from "../../shared/format";
import { keptJSON } from "../../shared/storage";
import { stands } from "../stands";
import { noDraft, startKey, type StartDraft } from "./drafts";
import type { BeforeProps } from "./help/before";
import { framed, listenToHost, tellHost } from "./host";
import { StartForm } from "./start-form";
import type { PanelStore } from "./store";
import { texts } from "./texts";

// Whoever cannot look for an answer, because its code does not come, can still ask.
const Before = lazy(() =>
  import("./help/before")
    .then(
      (m): ComponentType<BeforeProps> => m.default,
      () => AskInstead,
    )
    .then((part) => ({ default: part })),
);
const Talking = lazy(() => import("./talking"));

function AskInstead({ store, look }: BeforeProps) {
  useEffect(() => {
    look(false);
    store.another();
  }, [store, look]);
  return null;
}

/** The visitor's side: a header, the conversation or the form, and the composer. */
export function Panel({ store }: { store: PanelStore }) {
  const state = useSyncExternalStore(store.subscribe, store.snapshot);
  const [asking, setAsking] = useState(false);
  const [looking, setLooking] = useState(false);
  const [trouble, setTrouble] = useState("");
  const root = useRef<HTMLDivElement>(null);
  const wantsFocus = useRef(false);
  const { widget, chat } = state;
  const open = chat !== undefined && chat.phase !== "ended";
  const form = state.starting || (!chat && state.unsent.length === 0);
  const unread = store.unread();
  // Who has begun to write, or is spoken to, writes on.
  const before =
    looking ||
    (widget?.help &&
      !state.starting &&
      !state.invitation &&
      (state.finding || !keptJSON<StartDraft>(startKey(widget.key), noDraft).text));
  const leaves = widget?.now.state === "closed" || state.mustLeave !== undefined;

  // The visitor asked for the panel: what they write in gets the focus as soon
  // as it is there.
  const takeFocus = useCallback(() => {
    const first = wantsFocus.current && root.current?.querySelector<HTMLElement>("[data-first]");
    if (!first) return;
    wantsFocus.current = false;
    first.focus();
  }, []);
  useEffect(() => {
    // When what had the focus is gone, the next thing to do gets it.
    if (document.hasFocus() && document.activeElement === document.body) wantsFocus.current = true;
    takeFocus();
  }, [takeFocus, widget, form, before, open]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== "Escape" || event.defaultPrevented) return;
      if (asking) setAsking(false);
      else tellHost({ kind: "hide" });
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [asking]);
  useEffect(() => {
    const stop = listenToHost((message) => {
      if (message.kind === "page" && message.page) store.onPage(message.page);
      if (message.kind === "now" && message.state) store.onTeam(message.state);
      if (message.kind === "widget") store.onWidget();
      if (message.kind === "invited" && message.invitation) store.onInvited(message.invitation);
      if (message.kind === "chat") store.connect(); // another tab of this browser began one
      if (message.kind === "shown") {
        store.onShown(message.shown === true, message.takes);
        if (message.shown && message.byHand)
          root.current?.querySelector<HTMLElement>("[data-first]")?.focus();
      }
    });
    tellHost({ kind: "ready" });
    if (!framed) store.onShown(true);
    return stop;
  }, [store, takeFocus]);
  useEffect(() => tellHost({ kind: "unread", count: unread }), [unread]);
  useEffect(() => tellHost({ kind: "chat", open }), [open]);
  useEffect(() => {
    if (widget) tellHost({ kind: "state", state: widget.now, title: widget.title });
  }, [widget]);

  const hide = () => tellHost({ kind: "hide" });
  const end = () => {
    setAsking(false);
    store.end().then(
      () => setTrouble(""),
      () => setTrouble(texts.lost),
    );
  };

  if (state.broken) {
    return (
      <div className="panel" role="alert">
        <p className="broken">
          {texts.broken} {state.broken}
        </p>
        <button className="plain" onClick={() => void store.begin()}>
          {texts.again}
        </button>
      </div>
    );
  }
  const owner = chat?.ownerName ?? "";
  const colours = (
    widget ? { "--site": widget.colour, "--on-site": widget.onColour, ...widget.style } : {}
  ) as CSSProperties;
  return (
    <div className={framed ? "panel" : "panel page"} ref={root} style={colours}>
      <header>
        {owner && open && widget?.looks.faces ? (
          chat?.ownerPhoto ? (
            <img className="face" src={chat.ownerPhoto} alt="" />
          ) : (
            <span className="face" aria-hidden="true">
              {initials(owner)}
            </span>
          )
        ) : null}
        <div className="who">
          <h1>{owner && open ? owner : (widget?.title ?? "")}</h1>
          <p>
            {!widget
              ? texts.connecting
              : owner && open
                ? widget.title
                : stands(widget.words, chat?.helper ? { ...widget.now, helper: true } : widget.now)}
          </p>
        </div>
        {open && !chat.message ? (
          <button className="head" onClick={() => setAsking(true)}>
            {texts.end}
          </button>
        ) : null}
        <button className="head icon" onClick={hide} aria-label={texts.hide} title={texts.hide}>
          <svg viewBox="0 0 16 16" aria-hidden="true">
            <path d="M3 6l5 5 5-5" />
          </svg>
        </button>
      </header>
      <div className="state" role="status">
        {state.connection === "lost" ? <p className="lost">{texts.lost}</p> : null}
        {trouble ? <p className="lost">{trouble}</p> : null}
      </div>
      {asking ? (
        <div className="ask" role="alertdialog" aria-label={texts.endAsk}>
          <b>{texts.endAsk}</b>
          <button className="go" autoFocus onClick={end}>
            {texts.endYes}
          </button>
          <button className="plain" onClick={() => setAsking(false)}>
            {texts.endNo}
          </button>
        </div>
      ) : null}
      {!widget ? null : form && !before ? (
        <StartForm key={state.refills} store={store} state={state} message={leaves} look={setLooking} />
      ) : (
        <Suspense fallback={null}>
          {form ? (
            <Before store={store} booking={looking} look={setLooking} message={leaves} />
          ) : (
            <Talking store={store} state={state} />
          )}
        </Suspense>
      )}
      {form && widget?.looks.links.length ? (
        <p className="links">
          {widget.looks.links.map((link) => (
            <a key={link.url} href={link.url} target="_blank" rel="noopener noreferrer">
              {link.label}
            </a>
          ))}
        </p>
      ) : null}
    </div>
  );
}
