import { t } from "@lingui/core/macro";

import type { Saving } from "../../forms/saving";
import { TextInput } from "../../kit/field";

/** What a new widget needs. */
export interface NameAndSite {
  name: string;
  site: string;
}

interface Props {
  value: NameAndSite;
  change: (value: NameAndSite) => void;
  saving: Saving;
}

/** The name of a new widget and the site that it is for. */
export function NameAndSiteFields({ value, change, saving }: Props) {
  return (
    <>
      <TextInput
        label={t`Name`}
        value={value.name}
        change={(name) => change({ ...value, name })}
        wrong={saving.wrongAt("name")}
        hint={t`Of your company or site`}
        most={80}
      />
      <TextInput
        label={t`Address of the site`}
        value={value.site}
        change={(site) => change({ ...value, site })}
        wrong={saving.wrongAt("sites")}
        placeholder="https://www.example.com"
        most={500}
      />
    </>
  );
}
