import { lazy, useState, useSyncExternalStore } from "react";

import { Lazily } from "./lazily";
import { onSaid, saysWait } from "./say";

const Shown = lazy(() => import("./says-shown"));

/** The place where things are said; what draws it comes with the first of them. */
export function Says() {
  const waits = useSyncExternalStore(onSaid, saysWait);
  const [has, setHas] = useState(false);
  if (waits && !has) setHas(true);
  return <Lazily>{has ? <Shown /> : null}</Lazily>;
}
