import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";

import { api, ask } from "../../shared/api";
import { ProblemError, wordsFor, wrongFields } from "../../shared/problem";
import { Brand } from "../frame/brand";
import { Alert } from "../kit/alert";
import { Button } from "../kit/button";
import { usePageTitle } from "../kit/page-title";
import { TextField } from "../kit/text-field";

/** Where the first admin makes their account; setting up goes on from there. */
export function Begin({ proof }: { proof: string }) {
  usePageTitle(t`Set up Stoop`);
  const params = { path: { proof } };
  const may = useQuery({
    queryKey: ["begin", proof],
    queryFn: async () => {
      await ask(api.GET("/api/begin/{proof}", { params }));
      return true;
    },
    retry: false,
  });
  const [typed, setTyped] = useState({ name: "", email: "", password: "" });
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const [busy, setBusy] = useState(false);
  const begin = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    setWrong({});
    try {
      await ask(api.POST("/api/begin/{proof}", { params, body: typed }));
      location.replace("/setup/start");
    } catch (error) {
      const fields = wrongFields(error instanceof ProblemError ? error.problem : undefined);
      setWrong(Object.keys(fields).length > 0 ? fields : { "": wordsFor(error) });
    } finally {
      setBusy(false);
    }
  };
  const field = (name: keyof typeof typed, label: string, type: string, complete: string, hint: string) => (
    <TextField
      label={label}
      name={name}
      type={type}
      autoComplete={complete}
      autoFocus={name === "name"}
      value={typed[name]}
      error={wrong[name] !== undefined}
      helperText={wrong[name] ?? hint}
      onChange={(e) => setTyped({ ...typed, [name]: e.target.value })}
    />
  );
  return (
    <main className="login">
      <form onSubmit={(event) => void begin(event)} noValidate>
        <Brand />
        {may.isError ? (
          <>
            <Alert severity="error">{wordsFor(may.error)}</Alert>
            <Button href="/desk">
              <Trans>To the login</Trans>
            </Button>
          </>
        ) : may.data ? (
          <>
            <p>
              <Trans>
                Welcome. First your own account; then your site, who answers, and the chat itself. You can
                stop at any step and go on later.
              </Trans>
            </p>
            {field("name", t`Name`, "text", "name", t`As colleagues and visitors see it`)}
            {field("email", t`Email`, "email", "username", t`For logging in`)}
            {field(
              "password",
              t`Password`,
              "password",
              "new-password",
              t`At least 15 characters; a few words are easy to remember`,
            )}
            <div role="alert">{wrong[""] ? <Alert severity="error">{wrong[""]}</Alert> : null}</div>
            <Button type="submit" variant="contained" size="large" disabled={busy}>
              <Trans>Make my account</Trans>
            </Button>
          </>
        ) : (
          <p aria-busy="true" />
        )}
      </form>
    </main>
  );
}
