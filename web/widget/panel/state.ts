import type { Log } from "../../shared/log";
import { emptyLog } from "../../shared/log";
import type { LiveState } from "../../shared/live";
import type { Unsent } from "../../shared/outbox";
import type { VisitorChatView, WidgetView } from "../../shared/types";
import type { Invitation } from "./host";
import type { Upload } from "./uploads";

/** All that the panel shows. A new object for each change. */
export interface PanelState {
  widget: WidgetView | undefined;
  chat: VisitorChatView | undefined;
  log: Log;
  unsent: Unsent[];
  connection: LiveState;
  /** Who is typing; empty for nobody. */
  typing: string;
  /** What the visitor told of themselves before. */
  name: string;
  email: string;
  /** Why the panel cannot work at all. */
  broken: string;
  /** How often words went back into the draft, for the composer to read it anew. */
  refills: number;
  /** The visitor wants a new chat though the last one is still shown. */
  starting: boolean;
  /** They would rather find an answer, though they have begun to write. */
  finding: boolean;
  /** Fields of the form that were answered before. */
  known: string[];
  /** Nobody of the department that the question is for can answer: it becomes a message. */
  mustLeave: { opensAt: string | undefined } | undefined;
  /** What the server found wrong with the form, by field. */
  wrong: Record<string, string>;
  uploads: Upload[];
  /** The team's words to which the visitor is about to write. */
  invitation: Invitation | undefined;
}

/** What the panel shows before anything is known. */
export const atFirst: PanelState = {
  widget: undefined,
  chat: undefined,
  log: emptyLog,
  unsent: [],
  connection: "connecting",
  typing: "",
  name: "",
  email: "",
  broken: "",
  refills: 0,
  starting: false,
  finding: false,
  known: [],
  mustLeave: undefined,
  wrong: {},
  uploads: [],
  invitation: undefined,
};
