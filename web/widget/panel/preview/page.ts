// A page for trying a widget that is not on pages yet. The true launcher stands on it
// and opens the true panel; only what they ask of the server is answered here, with what
// the editor around says.
import "./page.css";

import { type Look, onLauncher, type PreviewMessage, widgetIn } from "./look";

const prefix = "stoop.preview.";
for (const storage of [localStorage, sessionStorage])
  for (const key of Object.keys(storage)) if (key.startsWith(prefix)) storage.removeItem(key);

let look: Look | undefined;

/** What the launcher is told, in the place of the server. */
function answer(): object {
  if (!look) return {};
  const { widget, scene, sample } = look;
  return {
    ...widgetIn(look),
    // What is hidden could not be looked at.
    hideClosed: scene === "closedLauncher" && widget.hideClosed,
    token: "preview",
    ...(scene === "invitation"
      ? { invitation: { id: sample.invitation, text: sample.invitation, name: sample.operator } }
      : {}),
  };
}

window.fetch = (input: RequestInfo | URL) => {
  const address = input instanceof Request ? input.url : String(input);
  return Promise.resolve(
    address.endsWith("/pulse") ? Response.json(answer()) : new Response(null, { status: 204 }),
  );
};
navigator.sendBeacon = () => true;
// No news comes from the server.
Object.assign(window, { EventSource: undefined });

function tellPanel(): void {
  const panel = document.querySelector("stoop-chat")?.shadowRoot?.querySelector("iframe")?.contentWindow;
  if (look) panel?.postMessage({ stoopPreview: look } satisfies PreviewMessage, location.origin);
}

/** Puts the launcher on the page; it opens the panel by itself, and takes no focus. */
function begin(scene: Look["scene"]): void {
  if (!onLauncher(scene)) sessionStorage.setItem(`${prefix}open`, "1");
  const script = document.createElement("script");
  script.src = "/stoop.js";
  script.dataset.key = "preview";
  document.body.append(script);
}

addEventListener("message", (event: MessageEvent<PreviewMessage | null>) => {
  const said = event.data?.stoopPreview;
  if (event.origin !== location.origin || !said) return;
  if (said === "ready") return tellPanel(); // the panel is there
  if (event.source !== window.parent) return;
  const before = look;
  look = said;
  if (!before) return begin(said.scene);
  if (
    onLauncher(before.scene) !== onLauncher(said.scene) ||
    before.widget.language !== said.widget.language ||
    (before.scene === "invitation") !== (said.scene === "invitation")
  )
    return location.reload();
  // The launcher asks anew when the page has another title.
  document.title = `Preview ${Date.now()}`;
  tellPanel();
});

window.parent.postMessage({ stoopPreview: "ready" } satisfies PreviewMessage, location.origin);
