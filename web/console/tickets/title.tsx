import { t } from "@lingui/core/macro";
import { useState } from "react";

import { Icons } from "../icons";
import { IconButton } from "../kit/button";

interface Props {
  title: string;
  fixed: boolean;
  change: (title: string) => Promise<boolean>;
}

/** What is to be done, changed in place: Enter keeps it, Escape does not. */
export function Title({ title, fixed, change }: Props) {
  const [typed, setTyped] = useState<string>();
  const keep = () => {
    if (typed === undefined) return;
    if (!typed.trim() || typed === title) return setTyped(undefined);
    void change(typed).then((well) => {
      if (well) setTyped(undefined);
    });
  };
  if (typed === undefined) {
    return (
      <h2>
        <bdi>{title}</bdi>
        {fixed ? null : (
          <IconButton size="small" aria-label={t`Change the title`} onClick={() => setTyped(title)}>
            <Icons.Pencil />
          </IconButton>
        )}
      </h2>
    );
  }
  return (
    <input
      autoFocus
      dir="auto"
      className="title-field"
      aria-label={t`Title`}
      maxLength={160}
      value={typed}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={keep}
      onKeyDown={(e) => {
        if (e.key === "Enter") keep();
        if (e.key === "Escape") setTyped(undefined);
      }}
    />
  );
}
