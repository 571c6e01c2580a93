import { wordsFor } from "../../shared/problem";
import { refusal, upload, type Sending } from "../../shared/upload";
import { uuid } from "../../shared/uuid";
import type { EventView, FileLimits } from "../../shared/types";

/** A file on its way to the team. */
export interface Upload {
  clientId: string;
  name: string;
  /** How far it has come, 0 to 1. */
  share: number;
  /** Why it did not go; empty while it does. */
  trouble: string;
}

/** Where files go, as the one who is let in. */
export interface Destination {
  url: string;
  token: string;
  limits: FileLimits | undefined;
}

/** Sends a visitor's files, each as a message of its own, and keeps what did not go until it does or is given up. */
export class Uploads {
  private list: Upload[] = [];
  private readonly sending = new Map<
    string,
    { work: Sending<{ event: EventView }> | undefined; again: () => void }
  >();

  constructor(
    private readonly to: () => Destination | undefined,
    private readonly changed: (list: Upload[]) => void,
    private readonly sent: (event: EventView) => void,
  ) {}

  /** Sends files; what cannot be taken says so at once. */
  share(files: File[]): void {
    const limits = this.to()?.limits;
    for (const file of files) {
      const trouble = (limits && refusal(file, limits)) ?? "";
      const one = { clientId: uuid(), name: file.name, share: 0, trouble };
      this.put(one);
      if (trouble) continue;
      const again = () => void this.send(one, file);
      this.sending.set(one.clientId, { work: undefined, again });
      again();
    }
  }

  /** Tries one again, if it can go at all. */
  again(clientId: string): void {
    this.sending.get(clientId)?.again();
  }

  /** Gives one up. */
  cancel(clientId: string): void {
    this.sending.get(clientId)?.work?.cancel();
    this.sending.delete(clientId);
    this.set(this.list.filter((u) => u.clientId !== clientId));
  }

  private async send(one: Upload, file: File): Promise<void> {
    const to = this.to();
    if (!to) return;
    const query = new URLSearchParams({ name: file.name, clientId: one.clientId });
    // What was given up meanwhile does not come back.
    const update = (part: Partial<Upload>) => {
      if (this.sending.has(one.clientId)) this.put({ ...one, ...part });
    };
    const progress = (share: number) => update({ share });
    progress(0);
    const work = upload<{ event: EventView }>(`${to.url}?${query.toString()}`, file, progress, {
      Authorization: `Bearer ${to.token}`,
    });
    const entry = this.sending.get(one.clientId);
    if (entry) entry.work = work;
    try {
      const { event } = await work.done;
      this.cancel(one.clientId);
      this.sent(event);
    } catch (error) {
      if (!(error instanceof DOMException)) update({ trouble: wordsFor(error) });
    }
  }

  private put(one: Upload): void {
    const known = this.list.some((u) => u.clientId === one.clientId);
    this.set(known ? this.list.map((u) => (u.clientId === one.clientId ? one : u)) : [...this.list, one]);
  }

  private set(list: Upload[]): void {
    this.list = list;
    this.changed(list);
  }
}
