import type { ArticleTitle, WidgetView } from "../../../shared/types";

/** What may be looked at of a widget before it is on pages. */
export type Scene =
  "launcher" | "closedLauncher" | "invitation" | "help" | "form" | "offline" | "waiting" | "chat" | "ended";

/** Words that stand for those of a visitor and of the team. */
export interface Sample {
  operator: string;
  visitor: string;
  question: string;
  answer: string;
  thanks: string;
  invitation: string;
  article: string;
}

/** What an editor tells its preview. */
export interface Look {
  widget: WidgetView;
  scene: Scene;
  sample: Sample;
  /** Its FAQs in the language that it speaks. */
  faqs: ArticleTitle[];
  /** Visitors can search the articles. */
  search: boolean;
}

/** A message to a preview or from it. */
export interface PreviewMessage {
  stoopPreview?: Look | "ready";
}

/** Reports whether the panel is not open in a scene. */
export function onLauncher(scene: Scene): boolean {
  return scene === "launcher" || scene === "closedLauncher" || scene === "invitation";
}

/** Returns the widget as a scene has it: with somebody in, or closed. */
export function widgetIn({ widget, scene, sample }: Look): WidgetView {
  const closed = scene === "closedLauncher" || scene === "offline";
  const first = sample.operator.split(" ")[0] ?? "";
  return { ...widget, now: { type: "state", state: closed ? "closed" : "open", in: closed ? [] : [first] } };
}
