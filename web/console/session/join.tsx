import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";

import { api, ask } from "../../shared/api";
import { ProblemError, wordsFor, wrongFields } from "../../shared/problem";
import type { OperatorView } from "../../shared/types";
import { Brand } from "../frame/brand";
import { Alert } from "../kit/alert";
import { Button } from "../kit/button";
import { usePageTitle } from "../kit/page-title";
import { TextField } from "../kit/text-field";

interface Props {
  token: string;
  onDone: (me: OperatorView) => void;
}

/** Where somebody joins the team who was invited. */
export function Join({ token, onDone }: Props) {
  usePageTitle(t`Join the team`);
  const who = useQuery({
    queryKey: ["join", token],
    queryFn: () => ask(api.GET("/api/join/{token}", { params: { path: { token } } })),
    retry: false,
  });
  const [name, setName] = useState<string | undefined>();
  const [password, setPassword] = useState("");
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const [busy, setBusy] = useState(false);
  const shown = name ?? who.data?.name ?? "";
  const join = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    setWrong({});
    try {
      const me = await ask(
        api.POST("/api/join/{token}", { params: { path: { token } }, body: { name: shown, password } }),
      );
      history.replaceState(null, "", "/desk");
      onDone(me);
    } catch (error) {
      const fields = wrongFields(error instanceof ProblemError ? error.problem : undefined);
      setWrong(Object.keys(fields).length > 0 ? fields : { "": wordsFor(error) });
    } finally {
      setBusy(false);
    }
  };
  return (
    <main className="login">
      <form onSubmit={(event) => void join(event)} noValidate>
        <Brand />
        {who.isError ? (
          <>
            <Alert severity="error">{wordsFor(who.error)}</Alert>
            <Button href="/desk">
              <Trans>To the login</Trans>
            </Button>
          </>
        ) : who.data ? (
          <>
            <p>
              <Trans>
                Welcome. You join as <b>{who.data.email}</b>. Choose a password that nobody else knows.
              </Trans>
            </p>
            <TextField
              label={t`Name`}
              name="name"
              autoComplete="name"
              value={shown}
              error={wrong.name !== undefined}
              helperText={wrong.name ?? t`As colleagues and visitors see it`}
              onChange={(e) => setName(e.target.value)}
            />
            <TextField
              label={t`Password`}
              name="password"
              type="password"
              autoComplete="new-password"
              value={password}
              error={wrong.password !== undefined}
              helperText={wrong.password ?? t`At least 15 characters; a few words are easy to remember`}
              onChange={(e) => setPassword(e.target.value)}
            />
            <div role="alert">{wrong[""] ? <Alert severity="error">{wrong[""]}</Alert> : null}</div>
            <Button type="submit" variant="contained" size="large" disabled={busy || !password}>
              <Trans>Join the team</Trans>
            </Button>
          </>
        ) : (
          <p aria-busy="true" />
        )}
      </form>
    </main>
  );
}
