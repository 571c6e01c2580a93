import { t } from "@lingui/core/macro";

import { Select } from "../kit/select";
import { TextInput } from "../kit/field";
import { useTypedWords } from "../kit/typed-words";
import { useDepartments, useOwners } from "./people";
import { priorityOptions, statusOptions } from "./words";

interface Props {
  address: URLSearchParams;
  change: (part: Record<string, string>) => void;
}

type Status = "unfinished" | "open" | "us" | "customer" | "done" | "all";
type Order = "due" | "updated" | "opened";

/** Which tickets an address asks for, as the server takes it. */
export function askedOf(address: URLSearchParams) {
  const of = (name: string) => address.get(name) ?? "";
  return {
    status: (of("status") || "unfinished") as Status,
    order: (of("order") || "due") as Order,
    owner: of("owner"),
    department: of("department"),
    priority: of("priority") as "low" | "normal" | "high" | "urgent",
    due: of("due") as "late" | "today",
    tag: of("tag"),
  };
}

/** By what the tickets are narrowed, and their order. */
export function Narrow({ address, change }: Props) {
  const asked = askedOf(address);
  const owners = useOwners();
  const [me] = owners.slice(1);
  const departments = useDepartments();
  const [tag, setTag] = useTypedWords(asked.tag, (text) => change({ tag: text }), 60);
  return (
    <div className="narrow" role="search" aria-label={t`Which tickets`}>
      <Select
        label={t`Status`}
        value={asked.status === "unfinished" ? "" : asked.status}
        change={(status) => change({ status })}
        options={[{ value: "", label: t`Not done` }, ...statusOptions, { value: "all", label: t`All` }]}
      />
      <Select
        label={t`Owner`}
        value={asked.owner}
        change={(owner) => change({ owner })}
        options={[
          { value: "", label: t`Anybody` },
          { value: "me", label: t`Me` },
          { value: "nobody", label: t`Nobody` },
          ...owners.slice(1).filter((o) => o !== me),
        ]}
      />
      <Select
        label={t`Department`}
        value={asked.department}
        change={(department) => change({ department })}
        options={[{ value: "", label: t`All` }, ...departments]}
      />
      <Select
        label={t`Priority`}
        value={asked.priority}
        change={(priority) => change({ priority })}
        options={[{ value: "", label: t`Any` }, ...priorityOptions]}
      />
      <Select
        label={t`Due`}
        value={asked.due}
        change={(due) => change({ due })}
        options={[
          { value: "", label: t`Any time` },
          { value: "late", label: t`Late` },
          { value: "today", label: t`Today or late` },
        ]}
      />
      <TextInput label={t`Tag`} value={tag} change={setTag} most={60} />
      <Select
        label={t`Order`}
        value={asked.order}
        change={(order) => change({ order: order === "due" ? "" : order })}
        options={[
          { value: "due", label: t`Due first` },
          { value: "updated", label: t`Last changed first` },
          { value: "opened", label: t`Newest first` },
        ]}
      />
    </div>
  );
}
