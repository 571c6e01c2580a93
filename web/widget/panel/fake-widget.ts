import type { WidgetView } from "../../shared/types";

/** A widget for tests of what visitors see, changed in some parts. */
export function fakeWidget(change: Partial<WidgetView> = {}): WidgetView {
  return {
    key: "ferries",
    title: "Ask the ferry desk",
    greeting: "Good morning",
    closedGreeting: "",
    language: "en",
    words: {},
    form: [],
    help: true,
    colour: "#9c3f27",
    onColour: "#ffffff",
    style: {},
    looks: { faces: true, links: [] },
    now: { type: "state", state: "open", in: ["Maren"] },
    ...change,
  } as unknown as WidgetView;
}
