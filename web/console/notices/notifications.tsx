import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import Slider from "@mui/material/Slider";
import { useState } from "react";

import type { Preferences } from "../../shared/types";
import { useDesk, useDeskStore } from "../desk/provider";
import { Choice, Tick } from "../forms/parts";
import { askForDesktopNotices, desktopNotices } from "./desktop";
import { usual } from "./notices";
import { arrivals, wordSounds } from "./sounds";

const options = (sounds: Record<string, { name: string }>) => [
  ...Object.entries(sounds).map(([value, { name }]) => ({ value, label: name })),
  { value: "none", label: "No sound" },
];

/** How Stoop makes itself heard, for each operator. */
export default function Notifications({ onClose }: { onClose: () => void }) {
  const store = useDeskStore();
  const { preferences: p } = useDesk();
  const [allowed, setAllowed] = useState(desktopNotices());
  const volume = p.volume ?? usual.volume;
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs" aria-labelledby="notices-title">
      <DialogTitle id="notices-title">Notifications</DialogTitle>
      <DialogContent className="notices-form">
        <p>While you are away nothing rings for new chats. With several tabs open only one makes a sound.</p>
        <div className="sound-row">
          <Choice
            label="When a chat arrives"
            value={p.sound ?? usual.sound}
            options={options(arrivals)}
            change={(sound) => store.prefer({ sound: sound as NonNullable<Preferences["sound"]> })}
          />
          <Button variant="outlined" onClick={() => store.testSound("arrival")}>
            Try it
          </Button>
        </div>
        <div className="sound-row">
          <Choice
            label="When somebody writes in a chat of mine"
            value={p.wordsSound ?? usual.wordsSound}
            options={options(wordSounds)}
            change={(wordsSound) =>
              store.prefer({ wordsSound: wordsSound as NonNullable<Preferences["wordsSound"]> })
            }
          />
          <Button variant="outlined" onClick={() => store.testSound("words")}>
            Try it
          </Button>
        </div>
        <label className="volume">
          <span>Volume</span>
          <Slider
            size="small"
            aria-label="Volume"
            value={volume}
            step={5}
            valueLabelDisplay="auto"
            onChange={(_, value) => store.prefer({ volume: value as number })}
          />
        </label>
        <Tick checked={p.title ?? usual.title} change={(title) => store.prefer({ title })}>
          Show what waits in the title of the tab
        </Tick>
        <Tick checked={p.desktop ?? usual.desktop} change={(desktop) => store.prefer({ desktop })}>
          Desktop notifications
        </Tick>
        {allowed === "default" ? (
          <Button
            variant="outlined"
            onClick={() => void askForDesktopNotices().then(() => setAllowed(desktopNotices()))}
          >
            Let the browser show them
          </Button>
        ) : (
          <p className="nothing">
            {allowed === "granted"
              ? "This browser shows them."
              : "This browser blocks them. Allow notifications for this page in its settings."}
          </p>
        )}
        <Tick
          checked={p.mailMessage ?? usual.mailMessage}
          change={(mailMessage) => store.prefer({ mailMessage })}
        >
          Email me each message left for my departments
        </Tick>
      </DialogContent>
      <DialogActions>
        <Button variant="outlined" onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}
