import { Trans } from "@lingui/react/macro";

import { dayShort, isoDay } from "../../shared/days";
import { sameDay, timeOfDay, whenNext } from "../../shared/format";
import { useAt } from "../desk/provider";
import { Icons } from "../icons";

/** When a ticket is due; what is late says so by word and shape. */
export function Due({ at }: { at: string | undefined }) {
  const due = at ? Date.parse(at) : 0;
  // Drawn anew only when it becomes late, or another day begins.
  const late = useAt((now) => due > 0 && now > due);
  const when = useAt((now) => {
    if (!at) return "";
    if (now < due) return whenNext(at, now);
    return sameDay(at, now) ? timeOfDay(at) : dayShort(isoDay(at));
  });
  if (!at) return null;
  return (
    <span className={late ? "ticket-due late" : "ticket-due"}>
      {late ? (
        <>
          <Icons.Warning /> <Trans>late since {when}</Trans>
        </>
      ) : (
        <Trans>due {when}</Trans>
      )}
    </span>
  );
}
