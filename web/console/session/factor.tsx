import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";

import { api, ask } from "../../shared/api";
import { useSaving } from "../forms/saving";
import { Button } from "../kit/button";
import { TextInput } from "../kit/field";
import { say } from "../kit/say";
import { Wrong } from "../kit/states";
import { TextField } from "../kit/text-field";

interface NewFactor {
  secret: string;
  picture: string;
}

/** Two-factor: switched on with an app and its first code, and its recovery codes. */
export function Factor({ on, codes }: { on: boolean; codes: number }) {
  const queries = useQueryClient();
  const saving = useSaving();
  const [asking, setAsking] = useState<"on" | "off" | "codes" | undefined>();
  const [password, setPassword] = useState("");
  const [fresh, setFresh] = useState<NewFactor | undefined>();
  const [code, setCode] = useState("");
  const [shown, setShown] = useState<string[] | undefined>();
  const reread = () => queries.invalidateQueries({ queryKey: ["me", "profile"] });
  const leave = () => {
    setAsking(undefined);
    setFresh(undefined);
    setPassword("");
    setCode("");
    saving.clear();
  };
  const prove = (event: FormEvent) => {
    event.preventDefault();
    const body = { password };
    void saving.run(
      async () => {
        if (asking === "on") {
          setFresh(await ask(api.POST("/api/me/factor", { body })));
          setPassword("");
          return;
        }
        if (asking === "off") await ask(api.POST("/api/me/factor/drop", { body }));
        else setShown((await ask(api.POST("/api/me/factor/codes", { body }))) ?? []);
        leave();
        await reread();
      },
      asking === "off"
        ? t`Two-factor is off`
        : asking === "on"
          ? t`Now scan the code`
          : t`New recovery codes`,
    );
  };
  const confirm = (event: FormEvent) => {
    event.preventDefault();
    void saving.run(
      async () => {
        setShown((await ask(api.POST("/api/me/factor/confirm", { body: { code } }))) ?? []);
        leave();
        await reread();
      },
      t`Two-factor is on`,
    );
  };
  if (shown) return <Codes codes={shown} done={() => setShown(undefined)} />;
  if (fresh)
    return (
      <form className="factor" onSubmit={confirm}>
        <p>
          <Trans>Scan this with an authenticator app, then enter the code that it shows.</Trans>
        </p>
        <img src={fresh.picture} alt={t`QR code for an authenticator app`} width={176} height={176} />
        <p className="hint">
          <Trans>
            Or type this into the app: <code>{fresh.secret.replace(/.{4}(?=.)/g, "$& ")}</code>
          </Trans>
        </p>
        <TextInput
          label={t`Code`}
          value={code}
          change={(v) => {
            setCode(v);
            saving.clear();
          }}
          wrong={saving.wrongAt("code")}
          most={10}
        />
        <Wrong words={saving.trouble} />
        <div className="row">
          <Button onClick={leave}>
            <Trans>Cancel</Trans>
          </Button>
          <Button type="submit" variant="contained" disabled={saving.busy || code.trim().length < 6}>
            <Trans>Switch on</Trans>
          </Button>
        </div>
      </form>
    );
  return (
    <div className="factor">
      <p>
        <b>
          <Trans>Two-factor</Trans>
        </b>{" "}
        {on
          ? plural(codes, {
              one: "is on; # recovery code is left.",
              other: "is on; # recovery codes are left.",
            })
          : t`is off. With it a stolen password opens nothing.`}
      </p>
      {asking ? (
        <form onSubmit={prove}>
          <TextField
            label={t`Your password, to be sure that it is you`}
            type="password"
            size="small"
            autoFocus
            fullWidth
            autoComplete="current-password"
            value={password}
            error={saving.wrongAt("password") !== undefined}
            helperText={saving.wrongAt("password")}
            onChange={(e) => {
              setPassword(e.target.value);
              saving.clear();
            }}
            slotProps={{ inputLabel: { shrink: true } }}
          />
          <Wrong words={saving.trouble} />
          <div className="row">
            <Button onClick={leave}>
              <Trans>Cancel</Trans>
            </Button>
            <Button type="submit" variant="contained" disabled={saving.busy || !password}>
              {asking === "on" ? t`Go on` : asking === "off" ? t`Switch off` : t`Make new codes`}
            </Button>
          </div>
        </form>
      ) : on ? (
        <div className="row">
          <Button variant="outlined" onClick={() => setAsking("codes")}>
            <Trans>New recovery codes</Trans>
          </Button>
          <Button onClick={() => setAsking("off")}>
            <Trans>Switch off</Trans>
          </Button>
        </div>
      ) : (
        <Button variant="outlined" onClick={() => setAsking("on")}>
          <Trans>Switch two-factor on</Trans>
        </Button>
      )}
    </div>
  );
}

/** Recovery codes, this once. */
function Codes({ codes, done }: { codes: string[]; done: () => void }) {
  const copy = () =>
    void navigator.clipboard.writeText(codes.join("\n")).then(
      () => say(t`Copied`, "success"),
      () => say(t`Select the text and copy it yourself; the browser does not allow it.`, "error"),
    );
  return (
    <div className="factor" role="alert">
      <p>
        <Trans>
          Each of these lets you in once if you lose your device. They are shown only now: print them or keep
          them somewhere safe.
        </Trans>
      </p>
      <ol className="codes">
        {codes.map((c) => (
          <li key={c}>
            <code>{c}</code>
          </li>
        ))}
      </ol>
      <div className="row">
        <Button variant="outlined" onClick={copy}>
          <Trans>Copy</Trans>
        </Button>
        <Button variant="contained" onClick={done}>
          <Trans>I have kept them</Trans>
        </Button>
      </div>
    </div>
  );
}
