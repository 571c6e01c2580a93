// Short names for the generated types of what the server sends.
import type { components } from "./api.gen";

type Schemas = components["schemas"];

export type EventView = Schemas["EventView"];
export type ChatView = Schemas["ChatView"];
export type VisitorChatView = Schemas["VisitorChatView"];
export type PlaceView = Schemas["PlaceView"];
export type OperatorView = Schemas["OperatorView"];
export type WidgetView = Schemas["WidgetView"];
export type Desk = Schemas["Desk"];
export type Script = Schemas["Script"];
export type Figures = Schemas["Figures"];
export type Transcripts = Schemas["Transcripts"];
export type TranscriptHit = Schemas["TranscriptHit"];
export type Admission = Schemas["Admission"];
export type Opened = Schemas["Opened"];
export type Problem = Schemas["Problem"];

/** What the team's live connection brings. */
export type TeamMessage =
  | Schemas["ChatMoved"]
  | Schemas["ChatGone"]
  | Schemas["DraftShown"]
  | Schemas["PlaceChanged"]
  | Schemas["TeamChanged"];

/** What a visitor's live connection brings. */
export type VisitorMessage = Schemas["VisitorChatMoved"] | Schemas["TypingShown"] | Schemas["TeamIn"];
