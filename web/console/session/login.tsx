import "./login.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState, type FormEvent } from "react";

import { api, ask } from "../../shared/api";
import { ProblemError, wordsFor } from "../../shared/problem";
import type { OperatorView } from "../../shared/types";
import { Brand } from "../frame/brand";
import { usePageTitle } from "../kit/page-title";
import { Alert } from "../kit/alert";
import { Button } from "../kit/button";
import { TextField } from "../kit/text-field";
import { Begin } from "./begin";
import { Join } from "./join";

interface Props {
  onDone: (me: OperatorView) => void;
}

/** The way in for operators, and for who was invited. */
export default function Login({ onDone }: Props) {
  const [, path, token = ""] = location.pathname.split("/");
  if (path === "join" && token) return <Join token={token} onDone={onDone} />;
  if (path === "begin" && token) return <Begin proof={token} />;
  return <Enter onDone={onDone} />;
}

function Enter({ onDone }: Props) {
  usePageTitle(t`Log in`);
  const [wrong, setWrong] = useState("");
  const [busy, setBusy] = useState(false);
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  // Asked for once the password was right, of who has a second factor.
  const [code, setCode] = useState<string | undefined>();
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    if (!email.trim() || !password) {
      setWrong(t`Enter your email and password.`);
      return;
    }
    setBusy(true);
    setWrong("");
    try {
      onDone(
        await ask(
          api.POST("/api/session", { body: { email: email.trim(), password, ...(code ? { code } : {}) } }),
        ),
      );
    } catch (error) {
      const needed = error instanceof ProblemError && error.problem.code === "code-needed";
      if (needed && code === undefined) setCode("");
      else setWrong(wordsFor(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <main className="login">
      <form onSubmit={(event) => void submit(event)} noValidate>
        <Brand />
        <TextField
          label={t`Email`}
          name="email"
          type="email"
          autoComplete="username"
          autoFocus
          value={email}
          onChange={(e) => setEmail(e.target.value)}
        />
        <TextField
          label={t`Password`}
          name="password"
          type="password"
          autoComplete="current-password"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
        />
        {code === undefined ? null : (
          <TextField
            label={t`Code`}
            name="code"
            autoComplete="one-time-code"
            autoFocus
            value={code}
            helperText={t`From your authenticator app, or a recovery code`}
            onChange={(e) => setCode(e.target.value)}
          />
        )}
        <div role="alert">{wrong ? <Alert severity="error">{wrong}</Alert> : null}</div>
        <Button type="submit" variant="contained" disabled={busy} size="large">
          <Trans>Log in</Trans>
        </Button>
      </form>
    </main>
  );
}
