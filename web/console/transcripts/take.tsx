import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import type { ChatView } from "../../shared/types";
import { Icons } from "../icons";
import { LaterIcons } from "../icons-later";
import { Button } from "../kit/button";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { TextInput } from "../kit/field";
import { Menu, MenuItem } from "../kit/menu";
import { say } from "../kit/say";
import { Wrong } from "../kit/states";
import { Make } from "../tickets/make";
import { PersonKept } from "../person/person";
import { formats } from "./formats";

/** Takes a transcript along: as a file, by mail, on paper. */
export function Take({ chat }: { chat: ChatView }) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  const [mailing, setMailing] = useState(false);
  const [making, setMaking] = useState(false);
  const navigate = useNavigate();
  const queries = useQueryClient();
  return (
    <span className="take">
      <Button
        variant="outlined"
        startIcon={<Icons.Download />}
        aria-haspopup="menu"
        onClick={(event) => setAt(event.currentTarget)}
      >
        <Trans>Download</Trans>
      </Button>
      <Menu anchorEl={at} open={at !== null} onClose={() => setAt(null)} onClick={() => setAt(null)}>
        {formats().map((f) => (
          <MenuItem
            key={f.value}
            component="a"
            href={`/api/chats/${chat.id}/transcript?format=${f.value}&notes=true`}
            download
          >
            {f.words}
          </MenuItem>
        ))}
      </Menu>
      {chat.phase === "ended" ? (
        <Button variant="outlined" startIcon={<Icons.Letter />} onClick={() => setMailing(true)}>
          <Trans>Email</Trans>
        </Button>
      ) : null}
      <Button variant="outlined" startIcon={<LaterIcons.Print />} onClick={() => window.print()}>
        <Trans>Print</Trans>
      </Button>
      {chat.phase === "ended" ? (
        <PersonKept
          who={{ chatId: chat.id }}
          name={chat.name || t`this visitor`}
          forgotten={() => void queries.invalidateQueries()}
        />
      ) : null}
      <Button variant="outlined" startIcon={<Icons.Note />} onClick={() => setMaking(true)}>
        <Trans>Ticket</Trans>
      </Button>
      {making ? (
        <Make
          chatId={chat.id}
          onClose={() => setMaking(false)}
          onMade={(made) => void navigate(`/tickets/${made.number}`)}
        />
      ) : null}
      {mailing ? <Mail chat={chat} done={() => setMailing(false)} /> : null}
    </span>
  );
}

function Mail({ chat, done }: { chat: ChatView; done: () => void }) {
  const [to, setTo] = useState(chat.email);
  const [trouble, setTrouble] = useState<string>();
  const [busy, setBusy] = useState(false);
  const send = async () => {
    setBusy(true);
    setTrouble(undefined);
    try {
      await ask(
        api.POST("/api/chats/{id}/transcript-mail", { params: { path: { id: chat.id } }, body: { to } }),
      );
      say(t`The transcript is on its way to ${to}.`, "success");
      done();
    } catch (error) {
      setTrouble(wordsFor(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog open onClose={done} aria-labelledby="mail-title">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void send();
        }}
      >
        <DialogTitle id="mail-title">
          <Trans>Send the transcript by email</Trans>
        </DialogTitle>
        <DialogContent className="keep-search">
          <TextInput label={t`To`} value={to} change={setTo} most={254} />
          <p className="hint">
            <Trans>
              It goes out as the visitor may read it: without notes, whispers, tags and what you put down
              about it.
            </Trans>
          </p>
          <Wrong words={trouble} />
        </DialogContent>
        <DialogActions>
          <Button onClick={done}>
            <Trans>Not now</Trans>
          </Button>
          <Button type="submit" variant="contained" disabled={busy || to.trim() === ""}>
            <Trans>Send</Trans>
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
