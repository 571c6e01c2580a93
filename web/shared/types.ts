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
export type FieldView = Schemas["FieldView"];
export type WidgetState = Schemas["WidgetState"];
export type WaitView = Schemas["WaitView"];
export type ReasonView = Schemas["ReasonView"];
export type DepartmentView = Schemas["DepartmentView"];
export type DepartmentSettings = Schemas["DepartmentSettings"];
export type HoursSettings = Schemas["HoursSettings"];
export type PersonSettings = Schemas["PersonSettings"];
export type Rule = Schemas["Rule"];
export type Condition = Schemas["Condition"];
export type RuleList = Schemas["RuleList"];
export type TrialResult = Schemas["TrialResult"];
export type FloorView = Schemas["FloorView"];
export type FloorDepartment = Schemas["FloorDepartment"];

/** What the team's live connection brings. */
export type TeamMessage =
  | Schemas["ChatMoved"]
  | Schemas["ChatGone"]
  | Schemas["DraftShown"]
  | Schemas["PlaceChanged"]
  | Schemas["TeamChanged"]
  | Schemas["Refresh"]
  | Schemas["FloorMoved"]
  | Schemas["SetAway"];

/** What a visitor's live connection brings. */
export type VisitorMessage =
  Schemas["VisitorChatMoved"] | Schemas["TypingShown"] | Schemas["WidgetState"] | Schemas["WaitMoved"];
