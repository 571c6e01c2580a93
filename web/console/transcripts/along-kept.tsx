import "./along-kept.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useRef, useState } from "react";

import { api, ask } from "../../shared/api";
import { timeOfDay } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import type { EventView } from "../../shared/types";
import { unpack } from "../../widget/along/pack";
import { AlongFrame, type AlongHandle } from "../along/along-frame";
import type { FromAlong } from "../along/messages";
import { Button } from "../kit/button";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { Slider } from "../kit/slider";

// What is unpacked of one time of looking along; what is longer is shown as far as it goes.
const unpackedMost = 200_000_000;

/** What was seen of the visitor's page and kept with the chat, to be seen again. */
export function AlongKept({ chatId, events }: { chatId: string; events: readonly EventView[] }) {
  const [open, setOpen] = useState<number>();
  const kept = events.filter(
    (e) =>
      e.kind === "along-asked" &&
      e.along?.kept &&
      events.some((m) => m.kind === "along-moved" && m.upTo === e.number && m.how === "accepted"),
  );
  if (kept.length === 0) return null;
  return (
    <p className="why">
      {kept.map((e) => (
        <Button key={e.number} variant="outlined" onClick={() => setOpen(e.number)}>
          <Trans>What was seen at {timeOfDay(e.at)}</Trans>
        </Button>
      ))}
      {open ? <Replay chatId={chatId} number={open} onClose={() => setOpen(undefined)} /> : null}
    </p>
  );
}

/** Reads all parts of what was kept, one answer after the other. */
async function readAll(chatId: string, number: number, still: () => boolean): Promise<unknown[]> {
  const events: unknown[] = [];
  let after = 0;
  let half = "";
  while (still()) {
    const params = { path: { id: chatId, number }, query: { after } };
    const parts = await ask(api.GET("/api/chats/{id}/along/{number}", { params }));
    if (parts.length === 0) break;
    for (const { part, data } of parts) {
      after = part;
      const more = data.endsWith("+more");
      half += more ? data.slice(0, -"+more".length) : data;
      if (more) continue;
      const packed = half;
      half = "";
      // A part of which the first half was lost cannot be read: what follows can.
      events.push(...(await unpack(packed, unpackedMost).catch(() => [])));
    }
  }
  return events;
}

function Replay({ chatId, number, onClose }: { chatId: string; number: number; onClose: () => void }) {
  const frame = useRef<AlongHandle>(null);
  const [ready, setReady] = useState(false);
  const [length, setLength] = useState<number>();
  const [at, setAt] = useState(0);
  const [playing, setPlaying] = useState(false);
  const [trouble, setTrouble] = useState("");
  useEffect(() => {
    if (!ready) return;
    let still = true;
    readAll(chatId, number, () => still).then(
      (events) => {
        if (!still) return;
        if (events.length < 2) setTrouble(t`Nothing was kept of it.`);
        else frame.current?.tell({ kind: "replay", events });
      },
      (error: unknown) => {
        if (still) setTrouble(wordsFor(error));
      },
    );
    return () => {
      still = false;
    };
  }, [ready, chatId, number]);
  const heard = (message: FromAlong) => {
    switch (message.kind) {
      case "ready":
        return setReady(true);
      case "length":
        return setLength(message.milliseconds);
      case "at":
        return setAt(message.milliseconds);
      case "finished":
        return setPlaying(false);
      case "broken":
        setTrouble(t`What was kept cannot be shown.`);
    }
  };
  const play = () => {
    const from = length !== undefined && at >= length - 100 ? 0 : at;
    frame.current?.tell(playing ? { kind: "pause" } : { kind: "play", at: from });
    setPlaying(!playing);
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="lg" aria-labelledby="kept-title">
      <DialogTitle id="kept-title">
        <Trans>What the visitor saw</Trans>
      </DialogTitle>
      <DialogContent>
        <div className="along-kept">
          <AlongFrame ref={frame} onMessage={heard} />
          {trouble ? (
            <p className="wrong" role="alert">
              {trouble}
            </p>
          ) : length === undefined ? (
            <p role="status">
              <Trans>Reading what was kept…</Trans>
            </p>
          ) : null}
        </div>
      </DialogContent>
      <DialogActions>
        <Button variant="contained" disabled={length === undefined} onClick={play}>
          {playing ? <Trans>Pause</Trans> : <Trans>Play</Trans>}
        </Button>
        <Slider
          aria-label={t`Time`}
          min={0}
          max={length ?? 1}
          value={Math.min(at, length ?? 1)}
          disabled={length === undefined}
          onChange={(_, value) => {
            const to = Number(value);
            setAt(to);
            setPlaying(false);
            frame.current?.tell({ kind: "to", at: to });
          }}
        />
        <Button onClick={onClose}>
          <Trans>Close</Trans>
        </Button>
      </DialogActions>
    </Dialog>
  );
}
