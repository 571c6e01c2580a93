import "./path.css";

import { t } from "@lingui/core/macro";

import { clock } from "../../shared/format";
import type { GuestView, PageSeen } from "../../shared/types";
import { useNow } from "../desk/provider";

/** The pages of a visit, in order; those that are open are marked. */
export function Path({ views, guest }: { views: readonly PageSeen[]; guest?: GuestView }) {
  const now = useNow();
  return (
    <ol className="path">
      {views.map((v, i) => {
        const open = guest !== undefined && !v.until;
        const current = open && v.url === guest.pageUrl;
        const attended = open ? now - Date.parse(v.since) : v.attended / 1e6;
        return (
          <li key={`${v.since}${i}`} className={current ? "now" : open ? "open" : ""}>
            <span className="cut" dir="auto" title={v.url}>
              {v.title || v.url}
              {current ? `, ${t`now`}` : ""}
            </span>
            <span className="clock" title={open ? t`since it was opened` : t`time that they attended to it`}>
              {clock(attended)}
            </span>
          </li>
        );
      })}
    </ol>
  );
}
