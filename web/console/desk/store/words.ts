import type { Live } from "../../../shared/live";
import { Outbox, type Unsent } from "../../../shared/outbox";
import { keep, keepInFront, kept } from "../../../shared/storage";
import { uuid } from "../../../shared/uuid";
import type { EventView, Suggestion, TeamMessage, TranslationView } from "../../../shared/types";
import { addMadeOf, draftKey, modeKey } from "../drafts";
import type { Scripts } from "./scripts";
import type { Screen } from "./screen";
import { put, type Stores } from "./stores";
import type { Attached } from "./uploads";

const typingEvery = 2500;
const scriptWithin = 3000; // milliseconds

/** What I write: on its way, waiting in a composer, or being typed. */
export class Words {
  private readonly outbox: Outbox;
  private readonly typedAt = new Map<string, number>();
  private readonly attached = new Map<string, Attached[]>();
  private readonly droppers = new Map<string, (files: File[]) => void>();

  constructor(
    private readonly stores: Stores,
    private readonly screen: Screen,
    private readonly scripts: Scripts,
    private readonly live: () => Live<TeamMessage>,
  ) {
    this.outbox = new Outbox(
      `stoop.desk.${stores.team.getState().me.id}.unsent.`,
      (message) => this.send(message),
      () => this.refreshUnsent(),
    );
  }

  /** Sends words; they are kept until the server has them. */
  write(id: string, text: string, extra: { canned?: string; translation?: TranslationView } = {}): void {
    this.typedAt.delete(id);
    this.outbox.add(id, text, Object.keys(extra).length > 0 ? extra : undefined);
  }

  /** The connection is back: what waits goes now. */
  wake(): void {
    this.refreshUnsent();
    this.outbox.wake();
  }

  /** Puts a message that the server refused back into the composer. */
  writeAnew(id: string, clientId: string): void {
    keepInFront(draftKey(id), this.outbox.discard(clientId));
    this.refill(id);
  }

  /** Puts a canned response into the composer of a chat, behind what is typed there. */
  putInComposer(id: string, response: Suggestion): void {
    const draft = kept(draftKey(id));
    keep(draftKey(id), draft ? `${draft.trimEnd()} ${response.text}` : response.text);
    keep(modeKey(id), null); // it is for the visitor
    addMadeOf(id, response);
    const files = (response.files ?? []).map((stored) => ({ key: uuid(), stored }));
    this.keepAttached(id, [...this.attachedTo(id), ...files]);
    this.refill(id);
    requestAnimationFrame(() => document.getElementById(`write-${id}`)?.focus());
  }

  /** Lets the visitor know that somebody types. */
  types(id: string, typing: boolean): void {
    const last = this.typedAt.get(id) ?? 0;
    if (typing && Date.now() - last < typingEvery) return;
    if (!typing && last === 0) return;
    if (typing) this.typedAt.set(id, Date.now());
    else this.typedAt.delete(id);
    this.live()
      .call("typing", { chatId: id, typing })
      .catch(() => undefined); // shown again with the next key
  }

  /** Asks for canned responses that fit what is being typed; all searches in all of them. */
  suggest(id: string, text: string, all: boolean): Promise<Suggestion[]> {
    return this.live().call<Suggestion[]>("suggest", { chatId: id, text, all });
  }

  /** Returns the files that wait in a chat's composer, also after its lane was away. */
  attachedTo(id: string): Attached[] {
    return this.attached.get(id) ?? [];
  }

  keepAttached(id: string, files: Attached[]): void {
    if (files.length > 0) this.attached.set(id, files);
    else this.attached.delete(id);
  }

  /** Lets a composer take what is dropped on its lane; returns how to stop. */
  onDrop(id: string, take: (files: File[]) => void): () => void {
    this.droppers.set(id, take);
    return () => this.droppers.delete(id);
  }

  /** Files were dropped on a lane. */
  dropped(id: string, files: File[]): void {
    this.droppers.get(id)?.(files);
  }

  private refill(id: string): void {
    this.stores.scripts.setState(({ refills }) => ({
      refills: put(refills, id, (refills.get(id) ?? 0) + 1),
    }));
  }

  private async send(message: Unsent): Promise<void> {
    const { chatId, clientId, text } = message;
    const said = await this.live().call<{ event: EventView }>("say", {
      chatId,
      clientId,
      text,
      ...message.extra,
    });
    // Until it stands in the script it stands there as unsent: what came in between may
    // have to be asked for first; after a start the script itself is still on its way.
    // Words to other chats wait behind these, so not for ever.
    if (!this.scripts.has(chatId) && this.screen.lanes.list().includes(chatId)) {
      await Promise.race([this.scripts.fetch(chatId), new Promise((done) => setTimeout(done, scriptWithin))]);
    }
    if (this.scripts.has(chatId)) await this.scripts.extend(chatId, [said.event]);
  }

  private refreshUnsent(): void {
    const had = this.stores.scripts.getState().unsent;
    const unsent = new Map<string, Unsent[]>();
    for (const id of this.screen.lanes.list()) {
      const list = this.outbox.list(id);
      const before = had.get(id);
      const same = before?.length === list.length && list.every((m, i) => m === before[i]);
      unsent.set(id, before && same ? before : list);
    }
    this.stores.scripts.setState({ unsent });
  }
}
