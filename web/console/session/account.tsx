import "./account.css";

import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import { useMe } from "../desk/provider";
import { useSaving } from "../forms/saving";
import { Button } from "../kit/button";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { TextInput } from "../kit/field";
import { LoadTrouble, Wrong } from "../kit/states";
import { Factor } from "./factor";
import OwnPassword from "./own-password";
import { Photo } from "./photo";

/** What somebody sets of their own account: what visitors see of them, and how they log in. */
export default function Account({ onClose }: { onClose: () => void }) {
  const me = useMe();
  const profile = useQuery({ queryKey: ["me", "profile"], queryFn: () => ask(api.GET("/api/me/profile")) });
  const [changing, setChanging] = useState(false);
  if (changing) return <OwnPassword onClose={() => setChanging(false)} />;
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="account-title">
      <DialogTitle id="account-title">
        <Trans>My account</Trans>
      </DialogTitle>
      <DialogContent className="account">
        {profile.isError ? (
          <LoadTrouble error={profile.error} again={() => void profile.refetch()} />
        ) : profile.data ? (
          <>
            <Part title={t`What visitors see`}>
              <Photo photo={profile.data.photo} name={profile.data.shownName || me.name} />
              <OwnWords kept={profile.data} />
            </Part>
            <Part title={t`Logging in`}>
              <p>
                <Button variant="outlined" onClick={() => setChanging(true)}>
                  <Trans>Change password</Trans>
                </Button>
              </p>
              <Factor on={profile.data.factor} codes={profile.data.codes} />
            </Part>
            <Part title={t`Where I am logged in`}>
              <Sessions />
            </Part>
          </>
        ) : (
          <p aria-busy="true" />
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>
          <Trans>Close</Trans>
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section>
      <h3>{title}</h3>
      {children}
    </section>
  );
}

function OwnWords({ kept }: { kept: { shownName: string; welcome: string } }) {
  const me = useMe();
  const queries = useQueryClient();
  const saving = useSaving();
  const [words, setWords] = useState({ shownName: kept.shownName, welcome: kept.welcome });
  const changed = words.shownName !== kept.shownName || words.welcome !== kept.welcome;
  const save = () =>
    void saving.run(
      async () => {
        const saved = await ask(api.PUT("/api/me/profile", { body: words }));
        queries.setQueryData(["me", "profile"], saved);
        setWords({ shownName: saved.shownName, welcome: saved.welcome });
      },
      t`Saved`,
    );
  return (
    <form
      className="words"
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <TextInput
        label={t`Name that visitors see`}
        value={words.shownName}
        change={(shownName) => setWords({ ...words, shownName })}
        placeholder={me.name}
        hint={t`Left empty, visitors see ${me.name}`}
        most={80}
      />
      <TextInput
        label={t`Welcome`}
        value={words.welcome}
        change={(welcome) => setWords({ ...words, welcome })}
        hint={t`Said to visitors when you take their chat, as automatic; left empty, nothing is said`}
        most={300}
      />
      <Wrong words={saving.trouble} />
      <Button type="submit" variant="outlined" disabled={!changed || saving.busy}>
        <Trans>Save</Trans>
      </Button>
    </form>
  );
}

function Sessions() {
  const queries = useQueryClient();
  const saving = useSaving();
  const sessions = useQuery({
    queryKey: ["me", "sessions"],
    queryFn: () => ask(api.GET("/api/me/sessions")),
  });
  if (sessions.isError) return <LoadTrouble error={sessions.error} again={() => void sessions.refetch()} />;
  if (!sessions.data) return <p aria-busy="true" />;
  const others = sessions.data.filter((s) => !s.this).length;
  const end = (id: string, done: string) =>
    void saving.run(async () => {
      await ask(api.DELETE("/api/me/sessions", { params: { query: id ? { id } : {} } }));
      await queries.invalidateQueries({ queryKey: ["me", "sessions"] });
    }, done);
  return (
    <>
      <ul className="sessions">
        {sessions.data.map((s) => (
          <li key={s.id}>
            <span>
              <b>{s.device || t`An unknown browser`}</b>
              <small>
                {s.address} · {t`since ${dayAndTime(s.began)}`}
              </small>
            </span>
            {s.this ? (
              <em>
                <Trans>this one</Trans>
              </em>
            ) : (
              <Button disabled={saving.busy} onClick={() => end(s.id, t`Logged out there`)}>
                <Trans>Log out there</Trans>
              </Button>
            )}
          </li>
        ))}
      </ul>
      <Wrong words={saving.trouble} />
      <Button
        variant="outlined"
        disabled={others === 0 || saving.busy}
        onClick={() => end("", t`Logged out everywhere else`)}
      >
        {others === 0
          ? t`Logged in nowhere else`
          : plural(others, { one: "Log out in # other place", other: "Log out in # other places" })}
      </Button>
    </>
  );
}
