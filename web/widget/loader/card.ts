import { fill } from "../stands";
import type { Host, Invitation } from "./host";

const margin = 12;

/** A small card over the launcher: an invitation, or the question for consent. */
export class Card {
  private box: HTMLElement | undefined;
  private invitation: Invitation | undefined;
  /** The invitation has been in sight. */
  private seen = false;
  /** Answered here: the server may say it once more before it has heard. */
  private readonly done = new Set<string>();

  constructor(
    private readonly host: Host,
    /** The visitor wants to talk, or the invitation opens the panel by itself. */
    private readonly accept: (invitation: Invitation, byHand: boolean) => void,
  ) {
    const sheet = new CSSStyleSheet();
    sheet.replaceSync(
      `.card{position:fixed;z-index:2147482999;bottom:76px;max-width:min(340px,calc(100% - 32px));padding:14px 16px;background:#fff;color:#241b16;border-radius:8px;border:1px solid #b9a994;box-shadow:0 6px 24px rgba(30,20,14,.22);font-size:16px;line-height:1.4}` +
        `.card p{margin:0 0 10px;white-space:pre-line;overflow-wrap:anywhere}.card .who{display:flex;gap:10px;align-items:center;margin-bottom:6px;font-size:14px;color:#5c4d42}` +
        `.card .who i{display:grid;place-items:center;width:32px;height:32px;border-radius:6px;background:var(--site);color:var(--on-site);font-style:normal;font-weight:650;flex:none}` +
        `.card .acts{display:flex;flex-wrap:wrap;gap:8px}.card button{min-height:44px;padding:8px 14px;border-radius:6px;font:inherit;font-size:15px;font-weight:600;cursor:pointer;border:1px solid #7d6b5d;background:#fff;color:#241b16}` +
        `.card .yes{background:var(--site);color:var(--on-site);border-color:var(--site)}.card button:focus-visible{outline:3px solid #241b16;outline-offset:2px}`,
    );
    host.root.adoptedStyleSheets = [...host.root.adoptedStyleSheets, sheet];
    for (const kind of ["focusin", "focusout", "resize", "scroll"])
      addEventListener(kind, () => requestAnimationFrame(() => this.place()), {
        passive: true,
        capture: true,
      });
  }

  /** Shows an invitation; none takes the one away that is shown. */
  invite(invitation: Invitation | undefined, open: boolean): void {
    if (!invitation) {
      if (this.invitation) this.forget();
      return;
    }
    if (this.done.has(invitation.id) || this.invitation?.id === invitation.id) return;
    if (open) return; // they are about to write
    this.invitation = invitation;
    this.seen = false;
    if (invitation.opens && !this.typing()) {
      this.done.add(invitation.id);
      this.answer("shown");
      this.accept(invitation, false);
      return;
    }
    const who = document.createElement("div");
    who.className = "who";
    const face = document.createElement("i");
    face.textContent = [...invitation.name][0] ?? "";
    face.setAttribute("aria-hidden", "true");
    who.append(face, [invitation.name, invitation.department].filter(Boolean).join(", "));
    this.show(
      fill(this.words("name"), invitation.name),
      invitation.text,
      who,
      [this.words("yes"), () => this.say("accepted")],
      [this.words("no"), () => this.say("dismissed")],
    );
  }

  /** Asks whether anything may be collected. */
  ask(text: string): void {
    if (this.box) return;
    const decide = (yes: boolean) => () => {
      this.host.remember("consent", yes ? "yes" : "no");
      this.forget();
      if (yes) this.host.pulse();
    };
    this.show(
      this.words("privacy"),
      text,
      undefined,
      [this.words("allow"), decide(true)],
      [this.words("refuse"), decide(false)],
    );
  }

  private words(key: string): string {
    return this.host.widget.words[`card.${key}`] ?? "";
  }

  private show(
    name: string,
    text: string,
    head: HTMLElement | undefined,
    yes: [string, () => void],
    no: [string, () => void],
  ): void {
    this.box?.remove();
    const box = document.createElement("div");
    box.className = "card";
    box.setAttribute("role", "dialog");
    box.setAttribute("aria-label", name);
    const words = document.createElement("p");
    words.dir = "auto";
    words.textContent = text;
    const acts = document.createElement("div");
    acts.className = "acts";
    for (const [label, act] of [yes, no]) {
      const button = document.createElement("button");
      button.textContent = label;
      button.onclick = act;
      acts.append(button);
    }
    acts.firstElementChild?.classList.add("yes");
    if (head) box.append(head);
    box.append(words, acts);
    box.onkeydown = (event) => {
      if (event.key === "Escape") no[1]();
    };
    this.box = box;
    this.host.root.append(box);
    this.place();
  }

  /** Where the visitor types, if they do. */
  private typing(): DOMRect | undefined {
    const at = document.activeElement;
    const types =
      at instanceof HTMLElement &&
      (/^(INPUT|TEXTAREA|SELECT|IFRAME)$/.test(at.tagName) || at.isContentEditable);
    return types ? at.getBoundingClientRect() : undefined;
  }

  /** Puts the card where it covers nothing that is being typed in: at the launcher, or on the other side, or nowhere for now. */
  place(): void {
    const { box } = this;
    if (!box || this.host.button.hidden) return;
    box.hidden = false;
    const { side, distance } = this.host;
    const typed = this.typing();
    for (const at of [side, side === "left" ? "right" : "left"] as const) {
      box.style.left = box.style.right = "";
      box.style[at] = distance;
      const mine = box.getBoundingClientRect();
      if (
        !typed ||
        typed.right + margin < mine.left ||
        typed.left - margin > mine.right ||
        typed.bottom + margin < mine.top ||
        typed.top - margin > mine.bottom
      ) {
        if (this.invitation && !this.seen) this.answer("shown");
        this.seen = true;
        return;
      }
    }
    box.hidden = true;
  }

  /** Takes the card out of sight while the panel is open. */
  hide(): void {
    if (this.box) this.box.hidden = true;
  }

  /** Takes the card away. */
  forget(): void {
    this.box?.remove();
    this.box = this.invitation = undefined;
  }

  private say(answer: "accepted" | "dismissed"): void {
    const { invitation } = this;
    if (!invitation) return;
    this.done.add(invitation.id);
    this.answer(answer);
    this.forget();
    if (answer === "accepted") this.accept(invitation, true);
    else this.host.button.focus();
  }

  private answer(answer: string): void {
    const { token } = this.host.page();
    const body = JSON.stringify({ token, id: this.invitation?.id, answer });
    // What gets lost is a count that is one too low.
    fetch(`${this.host.path}invitation`, {
      method: "POST",
      headers: { "Content-Type": "text/plain" },
      body,
      keepalive: true,
    }).catch(() => undefined);
  }
}
