import { Centrifuge, State } from "centrifuge";

import { LostError, ProblemError } from "./problem";
import type { Problem } from "./types";

/** How the live connection stands: going up for the first time, up, or lost. */
export type LiveState = "connecting" | "live" | "lost";

export interface LiveOptions<Message> {
  url: string;
  /** The visitor's token; operators are known by their session cookie. */
  token?: string;
  onMessage: (message: Message) => void;
  /** Called after each connect, also the first: what was missed must be asked for now. */
  onUp: () => void;
  onState: (state: LiveState) => void;
  /** Called when the server refuses the connection for good. */
  onRefused: () => void;
}

interface Reply {
  result?: unknown;
  problem?: Problem;
}

/** A live connection to the server that connects again by itself. */
export class Live<Message> {
  private readonly socket: Centrifuge;
  private wasUp = false;
  /** Server's clock minus this browser's, in milliseconds. */
  offset = 0;

  constructor(options: LiveOptions<Message>) {
    this.socket = new Centrifuge(options.url, {
      token: options.token ?? "",
      minReconnectDelay: 300,
      maxReconnectDelay: 4000,
      maxServerPingDelay: 6000,
      timeout: 8000,
    });
    this.socket.on("connected", (context) => {
      const now = (context.data as { now?: string } | undefined)?.now;
      if (now) this.offset = Date.parse(now) - Date.now();
      this.wasUp = true;
      options.onState("live");
      options.onUp();
    });
    this.socket.on("connecting", () => options.onState(this.wasUp ? "lost" : "connecting"));
    this.socket.on("error", () => {
      if (!this.wasUp) options.onState("lost");
    });
    this.socket.on("disconnected", (context) => {
      options.onState("lost");
      if (context.code >= 3500) options.onRefused();
    });
    this.socket.on("publication", (context) => options.onMessage(context.data as Message));
    // What is told to this connection alone.
    this.socket.on("message", (context) => options.onMessage(context.data as Message));
  }

  connect(): void {
    this.socket.connect();
  }

  close(): void {
    this.socket.disconnect();
  }

  /** Returns the server's time, in milliseconds since 1970. */
  now(): number {
    return Date.now() + this.offset;
  }

  /** Calls a method of the server. Throws a ProblemError or a LostError. */
  async call<Result>(method: string, data: unknown): Promise<Result> {
    if (this.socket.state !== State.Connected) throw new LostError();
    let reply: Reply;
    try {
      reply = (await this.socket.rpc(method, data)).data as Reply;
    } catch {
      throw new LostError();
    }
    if (reply.problem) throw new ProblemError(reply.problem);
    return reply.result as Result;
  }
}

/** Returns the address of a live endpoint on the server that served this page. */
export function liveURL(path: string): string {
  return `${location.protocol === "https:" ? "wss:" : "ws:"}//${location.host}${path}`;
}
