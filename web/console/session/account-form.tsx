import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState, type FormEvent, type ReactNode } from "react";

import { ProblemError, wordsFor, wrongFields } from "../../shared/problem";
import { Brand } from "../frame/brand";
import { Alert } from "../kit/alert";
import { Button } from "../kit/button";
import { TextField } from "../kit/text-field";

type Name = "name" | "email" | "password";

interface Props<Of> {
  /** Names the link, and asks whether it leads anywhere. */
  link: string;
  check: () => Promise<Of>;
  /** Says whom the account is for. */
  words: (of: Of) => ReactNode;
  fields: readonly Name[];
  /** What stands in the fields before anything is typed. */
  first: (of: Of) => Partial<Record<Name, string>>;
  button: string;
  make: (typed: Record<Name, string>) => Promise<void>;
}

function words(name: Name): { label: string; type: string; complete: string; hint: string } {
  switch (name) {
    case "name":
      return {
        label: t`Name`,
        type: "text",
        complete: "name",
        hint: t`As colleagues and visitors see it`,
      };
    case "email":
      return { label: t`Email`, type: "email", complete: "username", hint: t`For logging in` };
    case "password":
      return {
        label: t`Password`,
        type: "password",
        complete: "new-password",
        hint: t`At least 15 characters; a few words are easy to remember`,
      };
  }
}

/** Makes an account by a link that leads to it once. */
export function AccountForm<Of>(props: Props<Of>) {
  const { link, check, fields, first, button, make } = props;
  const of = useQuery({ queryKey: ["account-link", link], queryFn: check, retry: false });
  const [typed, setTyped] = useState<Partial<Record<Name, string>>>({});
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const [busy, setBusy] = useState(false);
  const value = (name: Name) => typed[name] ?? (of.data === undefined ? "" : (first(of.data)[name] ?? ""));
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    setWrong({});
    try {
      await make({ name: value("name"), email: value("email"), password: value("password") });
    } catch (error) {
      const found = wrongFields(error instanceof ProblemError ? error.problem : undefined);
      setWrong(Object.keys(found).length > 0 ? found : { "": wordsFor(error) });
    } finally {
      setBusy(false);
    }
  };
  return (
    <main className="login">
      <form onSubmit={(event) => void submit(event)} noValidate>
        <Brand />
        {of.isError ? (
          <>
            <Alert severity="error">{wordsFor(of.error)}</Alert>
            <Button href="/desk">
              <Trans>To the login</Trans>
            </Button>
          </>
        ) : of.data === undefined ? (
          <p aria-busy="true" />
        ) : (
          <>
            <p>{props.words(of.data)}</p>
            {fields.map((name) => {
              const { label, type, complete, hint } = words(name);
              return (
                <TextField
                  key={name}
                  label={label}
                  name={name}
                  type={type}
                  autoComplete={complete}
                  value={value(name)}
                  error={wrong[name] !== undefined}
                  helperText={wrong[name] ?? hint}
                  onChange={(e) => setTyped({ ...typed, [name]: e.target.value })}
                />
              );
            })}
            <div role="alert">{wrong[""] ? <Alert severity="error">{wrong[""]}</Alert> : null}</div>
            <Button type="submit" variant="contained" size="large" disabled={busy || !value("password")}>
              {button}
            </Button>
          </>
        )}
      </form>
    </main>
  );
}
