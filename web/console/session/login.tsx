import "./login.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState, type FormEvent } from "react";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import type { OperatorView } from "../../shared/types";
import { Brand } from "../frame/brand";
import { usePageTitle } from "../kit/page-title";
import { Alert } from "../kit/alert";
import { Button } from "../kit/button";
import { TextField } from "../kit/text-field";

/** The way in for operators. */
export default function Login({ onDone }: { onDone: (me: OperatorView) => void }) {
  usePageTitle(t`Log in`);
  const [wrong, setWrong] = useState("");
  const [busy, setBusy] = useState(false);
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    if (!email.trim() || !password) {
      setWrong(t`Enter your email and password.`);
      return;
    }
    setBusy(true);
    setWrong("");
    try {
      onDone(await ask(api.POST("/api/session", { body: { email: email.trim(), password } })));
    } catch (error) {
      setWrong(wordsFor(error));
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
        <div role="alert">{wrong ? <Alert severity="error">{wrong}</Alert> : null}</div>
        <Button type="submit" variant="contained" disabled={busy} size="large">
          <Trans>Log in</Trans>
        </Button>
      </form>
    </main>
  );
}
