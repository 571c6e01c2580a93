import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { characters } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import type { GuestView } from "../../shared/types";
import { useMe } from "../desk/provider";
import { useKept } from "../forms/kept";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { Tick } from "../kit/choice";
import { Menu, MenuItem } from "../kit/menu";
import { say, sayTrouble } from "../kit/say";
import { TextField } from "../kit/text-field";
import { Wrong } from "../kit/states";

const longest = 300;

/** Invites a visitor who has not written, in my own name; what is typed is kept until it was sent. */
export function Invite({ guest }: { guest: GuestView }) {
  const me = useMe();
  const [typed, setTyped, letGo] = useKept(`stoop.invite.${guest.id}`);
  const [opens, setOpens] = useState(false);
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState("");
  const text = typed ?? "";
  const path = { params: { path: { id: guest.id } } };
  if (guest.state === "invited") {
    const mine = guest.ownerId === me.id;
    return (
      <section>
        <h3>
          <Trans>Invited</Trans>
        </h3>
        <p className="nothing">
          {mine
            ? t`Your invitation is on their screen.`
            : t`The invitation of ${guest.ownerName ?? ""} is on their screen.`}
        </p>
        {mine || me.role !== "operator" ? (
          <Button
            variant="outlined"
            onClick={() => {
              ask(api.DELETE("/api/visitors/{id}/invitation", path)).catch(sayTrouble);
            }}
          >
            <Trans>Take it back</Trans>
          </Button>
        ) : null}
      </section>
    );
  }
  if (guest.state !== "browsing" && guest.state !== "idle" && guest.state !== "message") return null;
  const send = () => {
    if (!text.trim() || busy) return;
    setBusy(true);
    setTrouble("");
    ask(api.POST("/api/visitors/{id}/invitation", { ...path, body: { text: text.trim(), opens } }))
      .then(
        () => {
          letGo(typed);
          say(t`Invitation sent`, "success");
        },
        (error: unknown) => setTrouble(wordsFor(error)),
      )
      .finally(() => setBusy(false));
  };
  const over = characters(text) > longest;
  return (
    <section className="invite">
      <header>
        <h3>
          <Trans>Invite to a chat</Trans>
        </h3>
        <Canned pick={(words) => setTyped(words)} />
      </header>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          send();
        }}
      >
        <TextField
          multiline
          minRows={2}
          maxRows={6}
          fullWidth
          value={text}
          placeholder={t`Can I help you find the right sailing?`}
          error={over}
          helperText={over ? t`Up to ${longest} characters` : undefined}
          onChange={(e) => setTyped(e.target.value || null)}
          slotProps={{ htmlInput: { "aria-label": t`Words of the invitation`, dir: "auto" } }}
        />
        <Tick checked={opens} change={setOpens}>
          <Trans>Open the chat on their page</Trans>
        </Tick>
        <Wrong words={trouble} />
        <div className="row">
          <Button
            type="submit"
            variant="contained"
            disabled={busy || over || !text.trim()}
            startIcon={<Icons.Door />}
          >
            <Trans>Send invitation</Trans>
          </Button>
          <span className="as">{t`as ${me.name.split(" ")[0] ?? me.name}`}</span>
        </div>
      </form>
    </section>
  );
}

/** Canned responses that can stand without a chat: short, and with nothing to be filled in. */
function Canned({ pick }: { pick: (words: string) => void }) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  const canned = useQuery({
    queryKey: ["canned"],
    queryFn: () => ask(api.GET("/api/canned")),
    enabled: at !== null,
  });
  const fit = (canned.data ?? []).filter((c) => !c.text.includes("{") && characters(c.text) <= longest);
  return (
    <>
      <Button
        size="small"
        aria-haspopup="menu"
        onClick={(e) => setAt(e.currentTarget)}
        endIcon={<Icons.Down />}
      >
        <Trans>Canned</Trans>
      </Button>
      <Menu anchorEl={at} open={at !== null} onClose={() => setAt(null)} className="canned-menu">
        {fit.length === 0 ? (
          <MenuItem disabled>
            {canned.isPending ? t`Loading` : t`No response is short enough and has nothing to fill in`}
          </MenuItem>
        ) : (
          fit.slice(0, 40).map((c) => (
            <MenuItem
              key={c.id}
              onClick={() => {
                pick(c.text);
                setAt(null);
              }}
            >
              <b>;{c.shortcut}</b>&nbsp;<span className="cut">{c.text}</span>
            </MenuItem>
          ))
        )}
      </Menu>
    </>
  );
}
