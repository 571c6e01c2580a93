import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState, type ReactNode } from "react";

import type { TranslationView } from "../../shared/types";
import { Words } from "../../shared/words";
import { languageName } from "./language-name";

interface Props {
  translation: TranslationView;
  /** In which language they were said; empty where it is not known any more. */
  said: string;
  /** The words as they do not stand above: what the visitor wrote, or what they read. */
  other: string;
  /** They are the visitor's. */
  theirs: boolean;
  mark: ((text: string) => ReactNode) | undefined;
}

/** Says that words were translated, and shows them as the other side has them. */
export default function Translated({ translation, said, other, theirs, mark }: Props) {
  const [open, setOpen] = useState(false);
  const language = languageName(theirs ? said : translation.language);
  const unknown = translation.unknown ?? [];
  return (
    <>
      <span className="mark">
        {theirs ? (
          said ? (
            <Trans>translated from {language}</Trans>
          ) : (
            <Trans>translated</Trans>
          )
        ) : (
          <Trans>sent in {language}</Trans>
        )}
        {unknown.length > 0 ? ` · ${t`not translated: ${unknown.join(", ")}`}` : ""}{" "}
        <button type="button" className="link" aria-expanded={open} onClick={() => setOpen(!open)}>
          {theirs
            ? open
              ? t`Hide original`
              : t`Show original`
            : open
              ? t`Hide translation`
              : t`Show translation`}
        </button>
      </span>
      {open ? (
        <p dir="auto" className="other-tongue" lang={theirs ? said || undefined : translation.language}>
          <Words text={other} mark={mark} />
        </p>
      ) : null}
    </>
  );
}
