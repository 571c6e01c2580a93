import { t } from "@lingui/core/macro";
import { useState } from "react";

import { Words } from "../../../shared/words";

/** Says that words of the team were translated by a machine, and shows them as they were written. */
export default function Original({ text }: { text: string }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <p className="size">
        {t({ id: "translated.by", message: `Translated automatically` })}{" "}
        <button className="link" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open
            ? t({ id: "translated.hide", message: `Hide original` })
            : t({ id: "translated.show", message: `Show original` })}
        </button>
      </p>
      {open ? (
        <div className="words gone" dir="auto">
          <Words text={text} />
        </div>
      ) : null}
    </>
  );
}
