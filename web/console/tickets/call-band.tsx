import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { dayAndTime, toldZone } from "../../shared/format";
import type { TicketView } from "../../shared/types";
import { uuid } from "../../shared/uuid";
import { useKept } from "../forms/kept";
import { MomentField } from "../forms/moment-field";
import { useSaving } from "../forms/saving";
import { momentIn, wallIn } from "../forms/wall-time";
import { Button } from "../kit/button";
import { say, sayTrouble } from "../kit/say";
import { Wrong } from "../kit/states";
import { TextField } from "../kit/text-field";
import { useTicketMoved } from "./moved";
import { PhoneIcon } from "./phone-icon";

// When it is tried again, unless somebody says otherwise, in milliseconds.
const againAfter = 2 * 3600 * 1000;

/** The call that a customer wants: its number, and how it went. */
export function CallBand({ ticket }: { ticket: TicketView }) {
  const moved = useTicketMoved();
  const saving = useSaving();
  const zone = toldZone();
  const [how, setHow] = useState<"reached" | "not">();
  const [words, setWords, letGo] = useKept(`stoop.ticket.call.${ticket.id}`);
  const [again, setAgain] = useState("");
  const [clientId, setClientId] = useState(uuid);
  const [ringing, setRinging] = useState(false);
  const { call } = ticket;
  if (!call || ticket.status === "done") return null;
  const choose = (next: "reached" | "not") => {
    saving.clear();
    setHow(next);
    setAgain(wallIn(Date.now() + againAfter, zone));
  };
  const ring = () => {
    setRinging(true); // a second press would ring once more
    ask(api.POST("/api/tickets/{id}/ring", { params: { path: { id: ticket.id } } }))
      .then(() => say(t`It rings at ${call.shown}`, "success"), sayTrouble)
      .finally(() => setRinging(false));
  };
  const store = () => {
    const at = momentIn(again, zone);
    const put = async () => {
      const text = words ?? "";
      const body = {
        clientId,
        reached: how === "reached",
        ...(how === "not" && at !== undefined ? { again: new Date(at).toISOString() } : {}),
        ...(text.trim() ? { text } : {}),
      };
      moved(await ask(api.POST("/api/tickets/{id}/calls", { params: { path: { id: ticket.id } }, body })));
      letGo(words);
      setClientId(uuid());
      setHow(undefined);
    };
    void saving.run(put, how === "reached" ? t`The call is done` : t`It is tried again`);
  };
  return (
    <section className="call-band" aria-label={t`The call`}>
      <p>
        <PhoneIcon />{" "}
        {call.soon ? (
          <Trans>
            <b>{call.shown}</b>, wanted as soon as possible, from {dayAndTime(call.at)} on
          </Trans>
        ) : (
          <Trans>
            <b>{call.shown}</b>, wanted {dayAndTime(call.at)}
          </Trans>
        )}
        {call.tries > 0 ? (
          <span className="meta">
            {" "}
            · {plural(call.tries, { one: "called once", other: "called # times" })}
          </span>
        ) : null}
      </p>
      <span className="acts">
        {ticket.rings ? (
          <Button variant="outlined" disabled={ringing} onClick={ring}>
            <Trans>Call</Trans>
          </Button>
        ) : (
          <Button variant="outlined" href={`tel:${call.phone}`}>
            <Trans>Call</Trans>
          </Button>
        )}
        <Button aria-pressed={how === "reached"} onClick={() => choose("reached")}>
          <Trans>Reached</Trans>
        </Button>
        <Button aria-pressed={how === "not"} onClick={() => choose("not")}>
          <Trans>Not reached</Trans>
        </Button>
      </span>
      {how ? (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            store();
          }}
        >
          {how === "not" ? (
            <MomentField
              label={t`Again at`}
              value={again}
              change={setAgain}
              wrong={saving.wrongAt("again")}
            />
          ) : null}
          <TextField
            label={t`What came of it, for the team`}
            size="small"
            multiline
            maxRows={5}
            value={words ?? ""}
            onChange={(e) => setWords(e.target.value || null)}
            slotProps={{ htmlInput: { maxLength: 10000, dir: "auto" }, inputLabel: { shrink: true } }}
          />
          <Button type="submit" variant="contained" disabled={saving.busy}>
            {how === "reached" ? t`Save, and done` : t`Try again then`}
          </Button>
          <Wrong words={saving.trouble || undefined} />
        </form>
      ) : null}
    </section>
  );
}
