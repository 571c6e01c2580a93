import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import { dayAndTime } from "../../shared/format";
import type { ChangeView } from "../../shared/types";
import { settingKind } from "../words/settings";

/** How many of a change's parts are shown before all are asked for. */
const few = 6;

/** One thing of the set-up that was changed, or would be: what stood there before, and after. */
export function ChangeShown({ change: c, told = true }: { change: ChangeView; told?: boolean }) {
  const [whole, setWhole] = useState(false);
  const shown = whole ? c.parts : c.parts.slice(0, few);
  const rest = c.parts.length - shown.length;
  return (
    <li>
      <p>
        <b>
          {settingKind(c.kind)} {c.name ? <bdi>{c.name}</bdi> : null}
        </b>{" "}
        {told ? (
          <>
            {c.act === "made" ? t`made` : c.act === "removed" ? t`removed` : t`changed`} ·{" "}
            {c.by || t`by a command`} · <time dateTime={c.at}>{dayAndTime(c.at)}</time>
          </>
        ) : (
          <span className="meta">{c.act === "made" ? t`is new` : t`changes`}</span>
        )}
      </p>
      {c.act === "removed" ? null : (
        <table>
          <tbody>
            {shown.map((p) => (
              <tr key={p.path}>
                <th scope="row">
                  <code>{p.path}</code>
                </th>
                {p.path === "password" ? (
                  <td colSpan={2}>
                    <Trans>set anew</Trans>
                  </td>
                ) : (
                  <>
                    <td dir="auto">{p.before ? <del>{p.before}</del> : null}</td>
                    <td dir="auto">{p.after ? <ins>{p.after}</ins> : null}</td>
                  </>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {rest > 0 && c.act !== "removed" ? (
        <button className="as-link" onClick={() => setWhole(true)}>
          {plural(rest, { one: "Show # more value", other: "Show # more values" })}
        </button>
      ) : null}
    </li>
  );
}
