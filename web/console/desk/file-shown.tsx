import { t } from "@lingui/core/macro";
import { fileSize } from "../../shared/upload";
import type { FileView } from "../../shared/types";
import { Icons } from "../icons";

/** A shared file in a script: pictures small, sound and video to play, all others by name. */
export function FileShown({ file }: { file: FileView }) {
  const details = (
    <span className="file-line">
      {file.kind === "picture" ? (
        <Icons.Picture />
      ) : file.kind === "sound" ? (
        <Icons.Microphone />
      ) : (
        <Icons.File />
      )}
      <a href={file.gone ? undefined : file.url} target="_blank" rel="noopener noreferrer" className="cut">
        {file.voice ? t`Voice message` : <bdi>{file.name}</bdi>}
      </a>
      <span className="size">{file.gone ? t`no longer kept` : fileSize(file.size)}</span>
      {file.gone ? null : (
        <a
          href={`${file.url}${file.url.includes("?") ? "&" : "?"}download=1`}
          aria-label={t`Download ${file.name}`}
          download={file.name}
        >
          <Icons.Download />
        </a>
      )}
    </span>
  );
  return (
    <span className="file">
      {file.kind === "picture" && file.thumbUrl ? (
        <a href={file.url} target="_blank" rel="noopener noreferrer">
          <img src={file.thumbUrl} alt={file.name} {...shownSize(file)} loading="lazy" />
        </a>
      ) : null}
      {file.kind === "sound" ? <audio controls preload="none" src={file.url} aria-label={file.name} /> : null}
      {file.kind === "video" ? (
        <video controls preload="metadata" src={file.url} aria-label={file.name} />
      ) : null}
      {details}
    </span>
  );
}

const most = { width: 240, height: 180 };

/** The size in which a picture is shown, known before it is loaded, so that nothing jumps. */
export function shownSize(file: { width?: number; height?: number }): { width: number; height: number } {
  const width = file.width || most.width;
  const height = file.height || most.height;
  const share = Math.min(1, most.width / width, most.height / height);
  return { width: Math.max(1, Math.round(width * share)), height: Math.max(1, Math.round(height * share)) };
}
