import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { dayOf } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import type { PushDevice, Preferences, Pushing } from "../../shared/types";
import { useDeskStore, useMe, usePreferences } from "../desk/provider";
import { Alert } from "../kit/alert";
import { Button } from "../kit/button";
import { say } from "../kit/say";
import { Select } from "../kit/select";
import { canBePushed, isPushedFor, pushHere, pushNoMore } from "./push";

/** Whether and where I am told by push, while no console of mine is open. */
export function PushHere() {
  const me = useMe();
  const store = useDeskStore();
  const wants = usePreferences((s) => s.preferences);
  const queries = useQueryClient();
  const mine = useQuery({ queryKey: ["push"], queryFn: () => ask(api.GET("/api/me/push")) });
  const [trouble, setTrouble] = useState<string>();
  const [busy, setBusy] = useState(false);
  const run = (doing: () => Promise<void>) => {
    setBusy(true);
    setTrouble(undefined);
    doing()
      .catch((error: unknown) => setTrouble(wordsFor(error)))
      .finally(() => setBusy(false));
  };
  const put = (now: Pushing) => queries.setQueryData(["push"], now);
  const begin = () =>
    run(async () => {
      const key = mine.data?.publicKey ?? "";
      let now: Pushing | undefined;
      try {
        now = await pushHere(me.id, key);
      } catch (error) {
        if (!(error instanceof DOMException)) throw error;
        setTrouble(
          t`This browser could not reach its push service. Try again later, or use another browser.`,
        );
        return;
      }
      if (now) put(now);
      else setTrouble(t`Blocked by this browser. Allow notifications for this page in its settings.`);
    });
  const remove = (device: PushDevice) =>
    run(async () => {
      if (device.this) await pushNoMore();
      await ask(api.DELETE("/api/me/push/{id}", { params: { path: { id: device.id } } }));
      if (mine.data) put({ ...mine.data, devices: mine.data.devices.filter((d) => d.id !== device.id) });
    });
  const test = (device: PushDevice) =>
    run(async () => {
      await ask(api.POST("/api/me/push/{id}/test", { params: { path: { id: device.id } } }));
      say(t`Sent. It should appear on that device within seconds.`, "success");
    });
  const devices = mine.data?.devices ?? [];
  const here = isPushedFor(me.id) && devices.some((d) => d.this);
  return (
    <section className="push-here" aria-labelledby="push-title">
      <h3 id="push-title">
        <Trans>When Stoop is closed</Trans>
      </h3>
      <p>
        <Trans>
          A device can tell you that a chat is waiting, or that somebody has written in one of yours, while
          Stoop is open nowhere. What was written is not sent.
        </Trans>
      </p>
      <p>
        <Trans>
          As long as you are available, you are then within call: visitors can ask, and you keep your chats
          for three minutes. If you do not come within two minutes after you were told that somebody is
          waiting, you are set to away.
        </Trans>
      </p>
      {trouble ? <Alert severity="error">{trouble}</Alert> : null}
      {mine.error ? <Alert severity="error">{wordsFor(mine.error)}</Alert> : null}
      {here ? null : canBePushed() ? (
        <Button variant="outlined" disabled={busy || !mine.data} onClick={begin}>
          <Trans>Tell me on this device</Trans>
        </Button>
      ) : (
        <p className="nothing">
          <Trans>
            This browser cannot be told. On an iPhone or iPad, add Stoop to the home screen and open it there.
          </Trans>
        </p>
      )}
      {devices.length > 0 ? (
        <ul className="push-devices">
          {devices.map((d) => (
            <li key={d.id}>
              <span>
                <b>{d.this ? t`This device` : d.device}</b>
                <small>{t`since ${dayOf(d.since)}`}</small>
              </span>
              <Button
                size="small"
                disabled={busy}
                onClick={() => test(d)}
                aria-label={t`Send a test to ${d.device}`}
              >
                <Trans>Send a test</Trans>
              </Button>
              <Button
                size="small"
                disabled={busy}
                onClick={() => remove(d)}
                aria-label={t`Stop telling ${d.device}`}
              >
                <Trans>Stop</Trans>
              </Button>
            </li>
          ))}
        </ul>
      ) : null}
      {me.role === "operator" || devices.length === 0 ? null : (
        <Select
          label={t`Alerts from the Floor on my devices`}
          value={wants.pushAlerts ?? "mine"}
          options={[
            { value: "never", label: t`Never` },
            { value: "mine", label: t`For my departments` },
            { value: "all", label: t`For all departments` },
          ]}
          change={(pushAlerts) =>
            store.preferring.prefer({ pushAlerts: pushAlerts as NonNullable<Preferences["pushAlerts"]> })
          }
        />
      )}
    </section>
  );
}
