import "./frame.css";

import type { ReactNode } from "react";

import { StatusStrip } from "./status-strip";
import { TopBar } from "./top-bar";

/** What stands around every page of the console. */
export function Frame({ children }: { children: ReactNode }) {
  return (
    <div className="frame">
      <TopBar />
      {children}
      <StatusStrip />
    </div>
  );
}
