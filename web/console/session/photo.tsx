import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState, type PointerEvent } from "react";

import { api, ask } from "../../shared/api";
import { initials } from "../../shared/format";
import { useSaving } from "../forms/saving";
import { Button } from "../kit/button";
import { Wrong } from "../kit/states";

/** How large the square is in which a photo is cut, and how large it is sent. */
const side = 200;
const sent = 512;

/** A photo of oneself: chosen, cut to a square, or taken away. */
export function Photo({ photo, name }: { photo: string; name: string }) {
  const queries = useQueryClient();
  const saving = useSaving();
  const [picked, setPicked] = useState<HTMLImageElement | undefined>();
  const [unreadable, setUnreadable] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const put = (profile: unknown) => queries.setQueryData(["me", "profile"], profile);
  const pick = (chosen: File | undefined) => {
    if (!chosen) return;
    setUnreadable(false);
    const image = new Image();
    image.onload = () => {
      URL.revokeObjectURL(image.src); // it is read
      setPicked(image);
    };
    image.onerror = () => setUnreadable(true);
    image.src = URL.createObjectURL(chosen);
  };
  const save = (picture: string) =>
    void saving
      .run(
        async () => put(await ask(api.PUT("/api/me/photo", { body: { picture } }))),
        t`Your photo is on the chats now`,
      )
      .then((done) => done && setPicked(undefined));
  const remove = () =>
    void saving.run(async () => put(await ask(api.DELETE("/api/me/photo"))), t`Photo removed`);
  if (picked)
    return (
      <>
        <Cut image={picked} busy={saving.busy} done={save} leave={() => setPicked(undefined)} />
        <Wrong words={saving.wrongAt("photo") ?? saving.trouble} />
      </>
    );
  return (
    <div className="photo">
      {photo ? (
        <img src={photo} alt={t`Your photo`} width={64} height={64} />
      ) : (
        <span className="no-photo" aria-hidden="true">
          {initials(name)}
        </span>
      )}
      <input
        ref={file}
        type="file"
        accept="image/png,image/jpeg"
        hidden
        aria-label={t`Choose a photo`}
        onChange={(e) => {
          pick(e.target.files?.[0]);
          e.target.value = "";
        }}
      />
      <Button variant="outlined" onClick={() => file.current?.click()}>
        {photo ? t`Another photo` : t`Choose a photo`}
      </Button>
      {photo ? (
        <Button onClick={remove} disabled={saving.busy}>
          <Trans>Remove</Trans>
        </Button>
      ) : null}
      <Wrong words={unreadable ? t`This is not a picture that your browser can read.` : saving.trouble} />
    </div>
  );
}

interface CutProps {
  image: HTMLImageElement;
  busy: boolean;
  done: (picture: string) => void;
  leave: () => void;
}

/** Moves and enlarges a picture under a square, by pointer or by the sliders. */
function Cut({ image, busy, done, leave }: CutProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [zoom, setZoom] = useState(1);
  const [at, setAt] = useState({ x: 0.5, y: 0.5 });
  const grip = useRef<{ x: number; y: number } | undefined>(undefined);
  const least = Math.min(image.width, image.height);
  const size = least / zoom;
  // The square stays within the picture.
  const left = (image.width - size) * at.x;
  const top = (image.height - size) * at.y;
  useEffect(() => {
    const pen = canvas.current?.getContext("2d");
    if (!pen) return;
    pen.fillStyle = "#fff";
    pen.fillRect(0, 0, sent, sent);
    pen.drawImage(image, left, top, size, size, 0, 0, sent, sent);
  }, [image, left, top, size]);
  const within = (v: number) => Math.min(1, Math.max(0, v));
  const drag = (event: PointerEvent) => {
    if (!grip.current) return;
    const scale = size / side;
    const dx = ((event.clientX - grip.current.x) * scale) / Math.max(1, image.width - size);
    const dy = ((event.clientY - grip.current.y) * scale) / Math.max(1, image.height - size);
    grip.current = { x: event.clientX, y: event.clientY };
    setAt((before) => ({ x: within(before.x - dx), y: within(before.y - dy) }));
  };
  const slider = (label: string, value: number, low: number, high: number, change: (v: number) => void) => (
    <label>
      {label}
      <input
        type="range"
        min={low}
        max={high}
        step={0.01}
        value={value}
        onChange={(e) => change(Number(e.target.value))}
      />
    </label>
  );
  return (
    <div className="cut">
      <canvas
        ref={canvas}
        width={sent}
        height={sent}
        style={{ width: side, height: side }}
        role="img"
        aria-label={t`The part of the photo that will be shown`}
        onPointerDown={(e) => {
          grip.current = { x: e.clientX, y: e.clientY };
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onPointerMove={drag}
        onPointerUp={() => (grip.current = undefined)}
      />
      <div>
        {slider(t`Larger`, zoom, 1, 4, setZoom)}
        {slider(t`Sideways`, at.x, 0, 1, (x) => setAt({ ...at, x }))}
        {slider(t`Up and down`, at.y, 0, 1, (y) => setAt({ ...at, y }))}
        <div className="row">
          <Button onClick={leave}>
            <Trans>Cancel</Trans>
          </Button>
          <Button
            variant="contained"
            disabled={busy}
            onClick={() => {
              const data = canvas.current?.toDataURL("image/jpeg", 0.9) ?? "";
              done(data.slice(data.indexOf(",") + 1));
            }}
          >
            <Trans>Use this</Trans>
          </Button>
        </div>
      </div>
    </div>
  );
}
