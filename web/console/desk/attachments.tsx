import { t } from "@lingui/core/macro";
import { useEffect, useState } from "react";

import { fileSize } from "../../shared/upload";
import { Icons } from "../icons";
import { IconButton } from "../kit/button";
import { shownSize } from "./file-shown";
import type { Attached } from "./store/uploads";

/** What will go with the next words, each with a picture or a name, and a way to leave it out. */
export function Attachments({ list, onRemove }: { list: Attached[]; onRemove: (key: string) => void }) {
  if (list.length === 0) return null;
  return (
    <ul className="attachments" aria-label={t`Goes with the next message`}>
      {list.map((one) => (
        <li key={one.key}>
          <One attached={one} />
          <IconButton size="small" aria-label={t`Remove ${nameOf(one)}`} onClick={() => onRemove(one.key)}>
            <Icons.Close />
          </IconButton>
        </li>
      ))}
    </ul>
  );
}

/** Returns what an attached file is called. */
export function nameOf(one: Attached): string {
  return "file" in one ? (one.voice ? t`Voice message` : one.file.name) : one.stored.name;
}

function One({ attached }: { attached: Attached }) {
  const file = "file" in attached ? attached.file : undefined;
  const picture = file?.type.startsWith("image/") && file.type !== "image/svg+xml";
  const sound = "file" in attached && attached.voice === true;
  const url = useObjectURL(picture || sound ? file : undefined);
  const size = file ? file.size : "stored" in attached ? attached.stored.size : 0;
  return (
    <>
      {picture && url ? <img src={url} alt="" {...shownSize({ width: 48, height: 36 })} /> : <Icons.File />}
      <bdi className="cut">{nameOf(attached)}</bdi>
      {sound && url ? <audio controls src={url} aria-label={t`Listen before sending`} /> : null}
      <span className="size">{fileSize(size)}</span>
    </>
  );
}

/** Returns an address under which the page can show a file of this machine. */
function useObjectURL(file: File | undefined): string {
  const [url, setUrl] = useState("");
  useEffect(() => {
    if (!file) return;
    const made = URL.createObjectURL(file);
    // The address exists from now on, and until this file is gone.
    setUrl(made); // eslint-disable-line react-hooks/set-state-in-effect
    return () => URL.revokeObjectURL(made);
  }, [file]);
  return url;
}
