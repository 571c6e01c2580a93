import "./ways.css";

import { t } from "@lingui/core/macro";
import { useEffect, useState, type FormEvent } from "react";

import { firstName } from "../../../shared/format";
import { ProblemError, wordsFor, wrongFields } from "../../../shared/problem";
import type { CodeShown } from "../../../shared/types";
import type { PanelState } from "../state";
import type { PanelStore } from "../store";

/**
 * Asks whether the conversation goes on by text message or mail, and says that it does. By text
 * message it does once the visitor has sent a code from their telephone: so no number is
 * anybody's but theirs.
 */
export default function GoOn({ store, state }: { store: PanelStore; state: PanelState }) {
  const asked = state.chat?.askedWay;
  const moved = state.log.events.findLast(
    (e) => e.kind === "channel-moved" || (e.side === "visitor" && e.kind === "said"),
  );
  if (asked === "text" || asked === "email") {
    const by = state.log.events.findLast((e) => e.kind === "channel-asked");
    return <Question key={asked} store={store} kind={asked} state={state} name={firstName(by?.name ?? "")} />;
  }
  if (moved?.kind !== "channel-moved" || moved.how !== "accepted") return null;
  return (
    <div className="page-strip" role="status">
      {moved.way?.kind === "text"
        ? t({ id: "ways.text", message: `We continue by text message. You can close this window.` })
        : t({ id: "ways.email", message: `We continue by email. You can close this window.` })}
    </div>
  );
}

interface Props {
  store: PanelStore;
  state: PanelState;
  kind: "text" | "email";
  name: string;
}

function Question({ store, state, kind, name }: Props) {
  const [code, setCode] = useState<CodeShown>();
  const [email, setEmail] = useState(state.chat?.email || state.email);
  const [wrong, setWrong] = useState("");
  const [trouble, setTrouble] = useState("");
  const [again, setAgain] = useState(0);
  const { connection } = state;
  useEffect(() => {
    if (kind !== "text") return;
    let here = true;
    store.change("go-on-code", 0).then(
      (shown) => {
        if (!here) return;
        setTrouble("");
        setCode(shown as CodeShown);
      },
      (error: unknown) => here && setTrouble(wordsFor(error)),
    );
    return () => {
      here = false;
    };
  }, [store, kind, again, connection]);
  const fails = (error: unknown) => {
    const field = error instanceof ProblemError ? wrongFields(error.problem).email : undefined;
    setWrong(field ?? "");
    setTrouble(field ? "" : wordsFor(error));
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    store.change("go-on-by-mail", 0, { email }).catch(fails);
  };
  const stay = () => void store.change("stay", 0, { kind }).catch(fails);
  return (
    <form
      className="page-strip go-on"
      onSubmit={submit}
      noValidate
      aria-label={t({ id: "ways.label", message: `Continue elsewhere?` })}
    >
      {kind === "text" ? (
        <>
          <p>
            {t({
              id: "ways.askText",
              message: `${name} suggests that we continue by text message, so that you can leave this page. Send this code from your phone:`,
            })}
          </p>
          {code ? (
            <p className="code">
              <b>{code.code}</b> {t({ id: "ways.to", message: `to` })} <bdi dir="ltr">{code.shown}</bdi>
            </p>
          ) : null}
          <p className="acts">
            {code ? (
              <a href={`sms:${code.number}?body=${code.code}`}>
                {t({ id: "ways.open", message: `Open my messages` })}
              </a>
            ) : trouble ? (
              <button className="plain" type="button" onClick={() => setAgain(again + 1)}>
                {t({ id: "ways.again", message: `Try again` })}
              </button>
            ) : null}{" "}
            <button className="plain" type="button" onClick={stay}>
              {t({ id: "ways.no", message: `No, stay here` })}
            </button>
          </p>
        </>
      ) : (
        <>
          <label>
            {t({
              id: "ways.askEmail",
              message: `${name} suggests that we continue by email, so that you can leave this page. To which address?`,
            })}
            <input
              type="email"
              name="email"
              autoComplete="email"
              value={email}
              aria-invalid={wrong !== ""}
              onInput={(e) => {
                setEmail(e.currentTarget.value);
                setWrong("");
              }}
            />
          </label>
          <p className="acts">
            <button className="go" type="submit">
              {t({ id: "ways.yes", message: `Continue by email` })}
            </button>{" "}
            <button className="plain" type="button" onClick={stay}>
              {t({ id: "ways.no", message: `No, stay here` })}
            </button>
          </p>
        </>
      )}
      {wrong || trouble ? (
        <p className="wrong" role="alert">
          {wrong || trouble}
        </p>
      ) : null}
    </form>
  );
}
