import { useState } from "react";

interface Item {
  id: string;
}

/** One thing of a list that is edited and saved as a whole. */
export interface Picked<Of extends Item> {
  /** Where in the list it stands. */
  at: number;
  /** The one that is open; none when the list is empty. */
  shown: Of | undefined;
  /** Opens one of the list, or a new one for "new". */
  pick: (id: string) => void;
  edit: (part: Partial<Of>) => void;
  remove: () => void;
  /** Reports whether one is not as it was kept. */
  unsaved: (item: Of) => boolean;
}

/** Opens one thing of a list to be edited: the one that was picked, or else the first. */
export function usePicked<Of extends Item>(
  list: Of[],
  kept: Of[],
  change: (list: Of[]) => void,
  fresh: () => Of,
): Picked<Of> {
  const [open, setOpen] = useState("");
  const at = Math.max(
    0,
    list.findIndex((item) => item.id === open),
  );
  const shown = list[at];
  return {
    at,
    shown,
    pick: (id) => {
      if (id !== "new") {
        setOpen(id);
        return;
      }
      const added = fresh();
      change([...list, added]);
      setOpen(added.id);
    },
    edit: (part) => change(list.map((item) => (item.id === shown?.id ? { ...item, ...part } : item))),
    remove: () => change(list.filter((item) => item.id !== shown?.id)),
    unsaved: (item) => JSON.stringify(item) !== JSON.stringify(kept.find((k) => k.id === item.id)),
  };
}
