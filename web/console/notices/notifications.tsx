import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import type { Preferences } from "../../shared/types";
import { useDeskStore, useMe, usePreferences } from "../desk/provider";
import { Button } from "../kit/button";
import { Tick } from "../kit/choice";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { Select } from "../kit/select";
import { Slider } from "../kit/slider";
import { askForDesktopNotices, desktopNotices } from "./desktop";
import { usual } from "./notices";
import { PushHere } from "./push-here";
import { arrivals, wordSounds } from "./sounds";

const names: Record<string, string> = {
  steps: t`Steps`,
  bell: t`Door bell`,
  wood: t`Wood`,
  ferry: t`Ferry horn`,
  knock: t`Knock`,
  drop: t`Drop`,
  tick: t`Tick`,
};

const options = (sounds: object) => [
  ...Object.keys(sounds).map((value) => ({ value, label: names[value] ?? value })),
  { value: "none", label: t`No sound` },
];

/** How Stoop makes itself heard, for each operator. */
export default function Notifications({ onClose }: { onClose: () => void }) {
  const store = useDeskStore();
  const me = useMe();
  const p = usePreferences((s) => s.preferences);
  const [allowed, setAllowed] = useState(desktopNotices());
  const volume = p.volume ?? usual.volume;
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs" aria-labelledby="notices-title">
      <DialogTitle id="notices-title">
        <Trans>Notifications</Trans>
      </DialogTitle>
      <DialogContent className="notices-form">
        <p>
          <Trans>
            While you are away, new chats do not ring. With several tabs open, only one makes a sound.
          </Trans>
        </p>
        <div className="sound-row">
          <Select
            label={t`When a chat arrives`}
            value={p.sound ?? usual.sound}
            options={options(arrivals)}
            change={(sound) => store.preferring.prefer({ sound: sound as NonNullable<Preferences["sound"]> })}
          />
          <Button variant="outlined" onClick={() => store.testSound("arrival")}>
            <Trans>Play</Trans>
          </Button>
        </div>
        <div className="sound-row">
          <Select
            label={t`When somebody writes in one of my chats`}
            value={p.wordsSound ?? usual.wordsSound}
            options={options(wordSounds)}
            change={(wordsSound) =>
              store.preferring.prefer({ wordsSound: wordsSound as NonNullable<Preferences["wordsSound"]> })
            }
          />
          <Button variant="outlined" onClick={() => store.testSound("words")}>
            <Trans>Play</Trans>
          </Button>
        </div>
        {me.role === "operator" ? null : (
          <div className="sound-row">
            <Select
              label={t`When the Floor needs a lead`}
              value={p.alertSound ?? usual.alertSound}
              options={options(arrivals)}
              change={(alertSound) =>
                store.preferring.prefer({ alertSound: alertSound as NonNullable<Preferences["alertSound"]> })
              }
            />
            <Button variant="outlined" onClick={() => store.testSound("alert")}>
              <Trans>Play</Trans>
            </Button>
          </div>
        )}
        <label className="volume">
          <span>
            <Trans>Volume</Trans>
          </span>
          <Slider
            size="small"
            aria-label={t`Volume`}
            value={volume}
            step={5}
            valueLabelDisplay="auto"
            onChange={(_, value) => store.preferring.prefer({ volume: value as number })}
          />
        </label>
        <Tick
          checked={p.ringAgain ?? usual.ringAgain}
          change={(ringAgain) => store.preferring.prefer({ ringAgain })}
        >
          <Trans>Ring again, at growing pauses, while somebody still waits</Trans>
        </Tick>
        <Tick checked={p.title ?? usual.title} change={(title) => store.preferring.prefer({ title })}>
          <Trans>Show who is waiting in the tab title</Trans>
        </Tick>
        <Tick checked={p.desktop ?? usual.desktop} change={(desktop) => store.preferring.prefer({ desktop })}>
          <Trans>Desktop notifications</Trans>
        </Tick>
        {allowed === "default" ? (
          <Button
            variant="outlined"
            onClick={() => void askForDesktopNotices().then(() => setAllowed(desktopNotices()))}
          >
            <Trans>Allow in this browser</Trans>
          </Button>
        ) : (
          <p className="nothing">
            {allowed === "granted"
              ? t`Allowed in this browser.`
              : t`Blocked by this browser. Allow notifications for this page in its settings.`}
          </p>
        )}
        <Tick
          checked={p.mailMessage ?? usual.mailMessage}
          change={(mailMessage) => store.preferring.prefer({ mailMessage })}
        >
          <Trans>Email me every message left for my departments</Trans>
        </Tick>
        {me.role === "operator" ? null : (
          <Select
            label={t`Email me alerts from the Floor`}
            value={p.mailAlerts ?? usual.mailAlerts}
            options={[
              { value: "never", label: t`Never` },
              { value: "mine", label: t`For my departments` },
              { value: "all", label: t`For all departments` },
            ]}
            change={(mailAlerts) =>
              store.preferring.prefer({ mailAlerts: mailAlerts as NonNullable<Preferences["mailAlerts"]> })
            }
          />
        )}
        <PushHere />
      </DialogContent>
      <DialogActions>
        <Button variant="outlined" onClick={onClose}>
          <Trans>Close</Trans>
        </Button>
      </DialogActions>
    </Dialog>
  );
}
