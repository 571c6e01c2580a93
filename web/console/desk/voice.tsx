import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useRef, useState } from "react";

import { clock } from "../../shared/format";
import { Icons } from "../icons";
import { Button } from "../kit/button";

// The longest voice message, in milliseconds; then the recording stops by itself.
const longest = 5 * 60 * 1000;

interface Props {
  onDone: (file: File) => void;
  onCancel: () => void;
  onTrouble: (words: string) => void;
}

/** Records a voice message from when it is shown until it is kept or thrown away. */
export default function Recording({ onDone, onCancel, onTrouble }: Props) {
  const recorder = useRef<MediaRecorder | undefined>(undefined);
  const keep = useRef(false);
  const [since, setSince] = useState(0);
  const [now, setNow] = useState(0);
  const handlers = useRef({ onDone, onTrouble });
  useEffect(() => {
    handlers.current = { onDone, onTrouble };
  });
  useEffect(() => {
    let stream: MediaStream | undefined;
    let over = false;
    const begin = async () => {
      try {
        stream = await navigator.mediaDevices.getUserMedia({ audio: true });
      } catch {
        handlers.current.onTrouble(
          t`The browser blocks the microphone. Allow it for this page, then try again.`,
        );
        return;
      }
      if (over) {
        for (const track of stream.getTracks()) track.stop();
        return;
      }
      const parts: Blob[] = [];
      const made = new MediaRecorder(stream);
      made.ondataavailable = (e) => parts.push(e.data);
      made.onstop = () => {
        for (const track of stream?.getTracks() ?? []) track.stop();
        if (!keep.current) return;
        const type = made.mimeType.split(";")[0] ?? "audio/webm";
        const ending = type.includes("mp4") ? "m4a" : type.includes("ogg") ? "ogg" : "webm";
        handlers.current.onDone(new File(parts, `voice-message.${ending}`, { type }));
      };
      made.start(500);
      recorder.current = made;
      setSince(Date.now());
      setNow(Date.now());
    };
    void begin();
    const timer = setInterval(() => setNow(Date.now()), 500);
    return () => {
      over = true;
      clearInterval(timer);
      if (recorder.current?.state === "recording") recorder.current.stop();
    };
  }, []);
  const stop = () => {
    keep.current = true;
    recorder.current?.stop();
  };
  const lasted = since ? now - since : 0;
  useEffect(() => {
    if (lasted < longest || recorder.current?.state !== "recording") return;
    keep.current = true;
    recorder.current.stop();
  }, [lasted]);
  return (
    <div className="recording" role="group" aria-label={t`Voice message`}>
      <Icons.Microphone />
      <span role="timer">{since ? t`Recording ${clock(lasted)}` : t`Waiting for the microphone`}</span>
      <Button variant="outlined" disabled={!since} onClick={stop} startIcon={<Icons.Stop />} autoFocus>
        <Trans>Stop</Trans>
      </Button>
      <Button onClick={onCancel}>
        <Trans>Discard</Trans>
      </Button>
    </div>
  );
}
