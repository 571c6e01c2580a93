import { createContext, use, useEffect, useLayoutEffect, useRef, useState, type ReactNode } from "react";

import { actOf } from "./acts";

type Doing = () => void;

/** Knows which acts can be done right now, by whom was put on screen last. */
export class Registry {
  private readonly doing = new Map<string, Doing[]>();

  /** Offers an act; returns how to withdraw it. */
  offer(id: string, doing: Doing): () => void {
    this.doing.set(id, [...(this.doing.get(id) ?? []), doing]);
    return () =>
      this.doing.set(
        id,
        (this.doing.get(id) ?? []).filter((d) => d !== doing),
      );
  }

  /** Reports whether an act can be done now. */
  can(id: string): boolean {
    return (this.doing.get(id)?.length ?? 0) > 0;
  }

  /** Does an act; reports whether it could be done. */
  run(id: string): boolean {
    const doing = this.doing.get(id)?.at(-1);
    doing?.();
    return doing !== undefined;
  }
}

const RegistryContext = createContext<Registry | null>(null);

/** Listens to the keys of all acts. */
export function Keyboard({ children }: { children: ReactNode }) {
  const [registry] = useState(() => new Registry());
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const act = actOf(event);
      if (!act) return;
      // A held key acts once; the browser must not do something else with it either.
      if (event.repeat || behindDialog()) {
        if (registry.can(act.id)) event.preventDefault();
        return;
      }
      if (registry.run(act.id)) event.preventDefault();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [registry]);
  return <RegistryContext value={registry}>{children}</RegistryContext>;
}

/** Reports whether a dialog or a menu lies over the page: what is under it waits until that is answered. */
export function behindDialog(): boolean {
  return document.querySelector(".MuiDialog-root, .MuiMenu-root, .MuiPopover-root") !== null;
}

/** Returns the registry of acts. */
export function useActs(): Registry {
  const registry = use(RegistryContext);
  if (!registry) throw new Error("useActs is used outside of Keyboard");
  return registry;
}

/** Lets an act be done while a component is on screen and the act makes sense. */
export function useAct(id: string, doing: Doing, enabled = true): void {
  const registry = useActs();
  const latest = useRef(doing);
  // With the picture, not after it: the next key may be there already.
  useLayoutEffect(() => {
    latest.current = doing;
  });
  useLayoutEffect(
    () => (enabled ? registry.offer(id, () => latest.current()) : undefined),
    [registry, id, enabled],
  );
}
