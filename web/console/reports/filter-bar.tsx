import { t } from "@lingui/core/macro";

import { toldZone } from "../../shared/format";
import { useTeam } from "../desk/provider";
import { useChoices } from "../filters/choices";
import { Period } from "../filters/period";
import { asChoices, Pick } from "../filters/pick";
import { useAddress } from "../kit/address";
import { Select } from "../kit/select";
import { useAsked } from "./use-report";

/** By what all reports are narrowed; the address holds it. */
export function FilterBar() {
  const { asked } = useAsked();
  const [address, change] = useAddress();
  const choices = useChoices();
  useTeam((s) => s.connection); // with which the team's zone becomes known
  const of = (name: string) => address.get(name) ?? "";
  const own = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const zones = [...new Set([toldZone(), own, "UTC", ...(of("zone") ? [of("zone")] : [])])];
  return (
    <div className="filter-bar" role="search" aria-label={t`What the reports tell of`}>
      <Period from={asked.from ?? ""} to={asked.to ?? ""} change={change} />
      <Select
        label={t`Compared with`}
        value={of("against") || "before"}
        change={(against) => change({ against: against === "before" ? "" : against })}
        options={[
          { value: "before", label: t`the period before` },
          { value: "year", label: t`a year before` },
          { value: "none", label: t`nothing` },
        ]}
      />
      <Pick
        label={t`Department`}
        all={t`All`}
        value={of("department")}
        choices={choices?.departments ?? []}
        change={(department) => change({ department })}
      />
      <Pick
        label={t`Operator`}
        all={t`All`}
        value={of("operator")}
        choices={choices?.operators ?? []}
        change={(operator) => change({ operator })}
      />
      {(choices?.widgets.length ?? 0) > 1 || of("widget") ? (
        <Pick
          label={t`Widget`}
          all={t`All`}
          value={of("widget")}
          choices={choices?.widgets ?? []}
          change={(widget) => change({ widget })}
        />
      ) : null}
      <Pick
        label={t`Tag`}
        all={t`All`}
        value={of("tag")}
        choices={asChoices(choices?.tags ?? [])}
        change={(tag) => change({ tag })}
      />
      <Select
        label={t`Time zone`}
        value={of("zone") || toldZone()}
        change={(zone) => change({ zone: zone === toldZone() ? "" : zone })}
        options={zones.map((zone) => ({ value: zone, label: zone.replaceAll("_", " ") }))}
      />
    </div>
  );
}
