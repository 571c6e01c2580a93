import { t } from "@lingui/core/macro";

import { useTeam } from "../desk/provider";

/** A choice in a list. */
export interface Option {
  value: string;
  label: string;
}

/** Everybody who can own a ticket, me first, and nobody. */
export function useOwners(): Option[] {
  const operators = useTeam((s) => s.operators);
  const me = useTeam((s) => s.me);
  const others = operators.filter((o) => o.id !== me.id).map((o) => ({ value: o.id, label: o.name }));
  return [{ value: "", label: t`Nobody` }, { value: me.id, label: t`Me` }, ...others];
}

/** The departments in use. */
export function useDepartments(): Option[] {
  return useTeam((s) => s.departments).map((d) => ({ value: d.id, label: d.name }));
}
