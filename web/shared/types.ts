// Short names for the generated types of what the server sends.
import type { components } from "./api.gen";

type Schemas = components["schemas"];

export type EventView = Schemas["EventView"];
export type ChatView = Schemas["ChatView"];
export type VisitorChatView = Schemas["VisitorChatView"];
export type PlaceView = Schemas["PlaceView"];
export type OperatorView = Schemas["OperatorView"];
export type ActingRule = Schemas["ActingRule"];
export type ActingView = Schemas["ActingView"];
export type ActingSettings = Schemas["ActingSettings"];
export type RuleAct = Schemas["RuleAct"];
export type RuleResult = Schemas["RuleResult"];
export type Tried = Schemas["Tried"];
export type Pushing = Schemas["Pushing"];
export type PushDevice = Schemas["PushDevice"];
export type ArticleTitle = Schemas["ArticleTitle"];
export type Flow = Schemas["Flow"];
export type FlowStep = Schemas["Step"];
export type FlowView = Schemas["FlowView"];
export type FlowLook = Schemas["FlowLook"];
export type FlowTurn = Schemas["FlowTurn"];
export type FlowDrawing = Schemas["Drawing"];
export type FlowProblem = Schemas["StepProblem"];
export type FlowCase = Schemas["StepCase"];
export type HelpView = Schemas["HelpView"];
export type ReadView = Schemas["ReadView"];
export type DryRun = Schemas["DryRun"];
export type ReplayColumns = Schemas["ReplayColumns"];
export type ReplayFigures = Schemas["ReplayFigures"];
export type TakenIn = Schemas["TakenIn"];
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
export type FloorMember = Schemas["FloorMember"];
export type SaidAgain = Schemas["SaidAgain"];
export type AnswerAgain = Schemas["AnswerAgain"];
export type QuestionAgain = Schemas["QuestionAgain"];
export type ReviewDraw = Schemas["Draw"];
export type ReviewForm = Schemas["ReviewForm"];
export type ReviewView = Schemas["Review"];
export type Retention = Schemas["Retention"];
export type RetentionPreview = Schemas["Preview"];
export type AlertView = Schemas["AlertView"];
export type FileView = Schemas["FileView"];
export type SaleView = Schemas["SaleView"];
export type AboutView = Schemas["AboutView"];
export type ContactView = Schemas["ContactView"];
export type ContactRow = Schemas["ContactRow"];
export type ContactPage = Schemas["ContactPage"];
export type BrowserView = Schemas["BrowserView"];
export type EarlierView = Schemas["EarlierView"];
export type CannedView = Schemas["CannedView"];
export type Suggestion = Schemas["Suggestion"];
export type ContactNoteView = Schemas["ContactNoteView"];
export type ContactImport = Schemas["ContactImport"];
export type ImportView = Schemas["ImportView"];
export type ArticleView = Schemas["ArticleView"];
export type RoomView = Schemas["RoomView"];
export type TalkView = Schemas["TalkView"];
export type Preferences = Schemas["Preferences"];
export type FileLimits = Schemas["FileLimits"];
export type HoursStatus = Schemas["HoursStatus"];
export type BanView = Schemas["BanView"];
export type DeskSettings = Schemas["DeskSettings"];
export type WidgetSettings = Schemas["WidgetSettings"];
export type WidgetDesign = Schemas["Design"];
export type WidgetVersion = Schemas["WidgetVersion"];
export type WidgetChoices = Schemas["WidgetChoices"];
export type DesignPreview = Schemas["DesignPreview"];
export type FormField = Schemas["Field"];
export type Finding = Schemas["Finding"];
export type ChangeView = Schemas["ChangeView"];

export type GuestView = Schemas["GuestView"];
export type SurveyView = Schemas["SurveyView"];
export type FeedbackView = Schemas["FeedbackView"];
export type FeedbackSummary = Schemas["FeedbackSummary"];
export type RatedChat = Schemas["RatedChat"];
export type GroupView = Schemas["GroupView"];
export type SpotView = Schemas["SpotView"];
export type SiteMoved = Schemas["SiteMoved"];
export type GuestSheet = Schemas["GuestSheet"];
export type PastVisit = Schemas["PastVisit"];
export type PageSeen = Schemas["View"];
export type Source = Schemas["Source"];
export type BasketView = Schemas["Basket"];
export type Look = Schemas["Look"];
export type SiteSettings = Schemas["SiteSettings"];
export type Topic = Schemas["Topic"];
export type InvitationSettings = Schemas["InvitationSettings"];
export type InvitationRule = Schemas["InvitationRule"];
export type InvitationCounts = Schemas["RuleCounts"];
export type RecordView = Schemas["RecordView"];
export type CardView = Schemas["CardView"];
export type SiteDataView = Schemas["SiteDataView"];

/** What the team's live connection brings. */
export type TeamMessage =
  | Schemas["SiteMoved"]
  | Schemas["ChatMoved"]
  | Schemas["MarksMoved"]
  | Schemas["ChatGone"]
  | Schemas["DraftShown"]
  | Schemas["PlaceChanged"]
  | Schemas["TeamChanged"]
  | Schemas["Refresh"]
  | Schemas["FloorMoved"]
  | Schemas["AlertsMoved"]
  | Schemas["ReviewsMoved"]
  | Schemas["SetAway"]
  | Schemas["Talked"]
  | Schemas["RoomsMoved"]
  | Schemas["LibraryMoved"]
  | Schemas["TicketsMoved"]
  | Schemas["AlongPart"];

/** What a visitor's live connection brings. */
export type VisitorMessage =
  | Schemas["VisitorChatMoved"]
  | Schemas["MarksMoved"]
  | Schemas["TypingShown"]
  | Schemas["WidgetState"]
  | Schemas["WaitMoved"]
  | Schemas["WidgetChanged"]
  | Schemas["Wish"];
export type WayView = Schemas["WayView"];
/** Lines at which people write beside the site, with what is connected. */
export type ChannelSettings = Schemas["ChannelSettings"];
/** One of them. */
export type ChannelLine = Schemas["ChannelLine"];
/** The code by which a visitor goes on at their telephone. */
export type CodeShown = Schemas["CodeShown"];
export type ShowingView = Schemas["ShowingView"];
export type SavedPageView = Schemas["SavedPageView"];
export type Wish = Schemas["Wish"];
export type AlongPart = Schemas["AlongPart"];
export type AlongView = Schemas["AlongView"];
export type WebhookView = Schemas["WebhookView"];
export type DeliveryView = Schemas["DeliveryView"];
export type TranslationView = Schemas["TranslationView"];
export type TranslatingView = Schemas["TranslatingView"];
export type Report = Schemas["Report"];
export type ReportRow = Schemas["ReportRow"];
export type ChatFigures = Schemas["ChatFigures"];
export type Times = Schemas["Times"];
export type Share = Schemas["Share"];
export type Amount = Schemas["Amount"];
export type Spread = Schemas["Spread"];
export type Speed = Schemas["Speed"];
export type Operators = Schemas["Operators"];
export type OperatorRow = Schemas["OperatorRow"];
export type TranscriptChoices = Schemas["TranscriptChoices"];
export type Choice = Schemas["Choice"];
export type Definition = Schemas["Definition"];
export type SavedSearch = Schemas["SavedSearch"];
export type Export = Schemas["Export"];
export type Term = Schemas["Term"];
export type Piece = Schemas["Piece"];
export type ChatMeasures = Schemas["ChatMeasures"];
export type StaffingPlan = Schemas["StaffingPlan"];
export type Slot = Schemas["Slot"];
export type Shift = Schemas["Shift"];
export type TicketRow = Schemas["TicketRow"];
export type TicketView = Schemas["TicketView"];
export type TicketEvent = Schemas["TicketEvent"];
export type TicketChange = Schemas["TicketChange"];
export type TicketChat = Schemas["TicketChat"];
export type TicketDraft = Schemas["TicketDraft"];
export type TicketSettings = Schemas["TicketSettings"];
export type TicketReport = Schemas["TicketReport"];
export type TicketFigures = Schemas["TicketFigures"];
export type KeyView = Schemas["KeyView"];
export type KeyMade = Schemas["KeyMade"];
export type CallTimes = Schemas["CallTimes"];
export type OwnTicket = Schemas["OwnTicket"];
/** What somebody changes of a ticket. */
export type TicketPart = Schemas["Change"];
