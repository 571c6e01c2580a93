import { t } from "@lingui/core/macro";
import { api, ask } from "../../../shared/api";
import { LostError, wordsFor } from "../../../shared/problem";
import { refusal, upload, type Sending } from "../../../shared/upload";
import { uuid } from "../../../shared/uuid";
import type { EventView, FileView } from "../../../shared/types";
import { put, type Stores } from "./stores";

/** A file on its way to a chat. */
export interface Upload {
  clientId: string;
  name: string;
  size: number;
  /** How far it has come, 0 to 1. */
  share: number;
  /** Why it did not go; empty while it does. */
  trouble: string;
}

/** A file that will go with the next words: one of this machine, or that of a canned response. */
export type Attached = { key: string; file: File; voice?: boolean } | { key: string; stored: FileView };

/** Sends files to chats, each as a message of its own, and keeps what did not go until it does or is given up. */
export class Uploads {
  private readonly sending = new Map<
    string,
    { work: Sending<{ event: EventView }> | undefined; again: () => void }
  >();

  constructor(
    private readonly stores: Stores,
    private readonly sent: (chatId: string, event: EventView) => void,
  ) {}

  /** Sends files to a chat. */
  share(id: string, files: Attached[]): void {
    for (const attached of files) {
      const clientId = uuid();
      const [name, size] =
        "file" in attached
          ? [attached.file.name, attached.file.size]
          : [attached.stored.name, attached.stored.size];
      const again = () => void this.send(id, clientId, attached);
      this.sending.set(clientId, { work: undefined, again });
      this.put(id, { clientId, name, size, share: 0, trouble: "" });
      again();
    }
  }

  /** Says why a file will not be taken, before it is sent; empty when it may be. */
  refusalOf(file: File): string {
    return refusal(file, this.stores.team.getState().files);
  }

  /** Tries one again that did not go. */
  again(clientId: string): void {
    this.sending.get(clientId)?.again();
  }

  /** Gives one up. */
  cancel(id: string, clientId: string): void {
    this.sending.get(clientId)?.work?.cancel();
    this.forget(id, clientId);
  }

  private async send(id: string, clientId: string, attached: Attached): Promise<void> {
    const now = this.list(id).find((u) => u.clientId === clientId);
    if (!now) return;
    this.put(id, { ...now, share: 0, trouble: "" });
    try {
      const { event } = await this.deliver(id, clientId, attached, now);
      this.forget(id, clientId);
      this.sent(id, event);
    } catch (error) {
      if (error instanceof DOMException) return; // given up
      const trouble =
        error instanceof LostError
          ? t`No connection. The file is kept here; try again when it is back.`
          : wordsFor(error);
      this.put(id, { ...now, share: 0, trouble });
    }
  }

  private deliver(
    id: string,
    clientId: string,
    attached: Attached,
    now: Upload,
  ): Promise<{ event: EventView }> {
    if ("stored" in attached) {
      const body = { clientId, fileId: attached.stored.id };
      return ask(api.POST("/api/chats/{id}/stored-files", { params: { path: { id } }, body }));
    }
    const query = new URLSearchParams({
      name: attached.file.name,
      clientId,
      ...(attached.voice ? { voice: "1" } : {}),
    });
    const work = upload(`/api/chats/${id}/files?${query.toString()}`, attached.file, (share) =>
      this.put(id, { ...now, share, trouble: "" }),
    );
    const entry = this.sending.get(clientId);
    if (entry) entry.work = work;
    return work.done;
  }

  private put(id: string, one: Upload): void {
    if (!this.sending.has(one.clientId)) return; // what was given up does not come back
    const list = this.list(id);
    const known = list.some((u) => u.clientId === one.clientId);
    this.set(id, known ? list.map((u) => (u.clientId === one.clientId ? one : u)) : [...list, one]);
  }

  private forget(id: string, clientId: string): void {
    this.sending.delete(clientId);
    this.set(
      id,
      this.list(id).filter((u) => u.clientId !== clientId),
    );
  }

  private list(id: string): Upload[] {
    return this.stores.uploads.getState().uploads.get(id) ?? [];
  }

  private set(id: string, list: Upload[]): void {
    this.stores.uploads.setState(({ uploads }) => ({ uploads: put(uploads, id, list) }));
  }
}
