import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { Outbox, type Unsent } from "./outbox";
import { LostError, ProblemError } from "./problem";
import type { Problem } from "./types";

const problem = (code: string, retry: boolean): ProblemError =>
  new ProblemError({ type: "about:blank", status: 422, title: code, detail: "", code, retry } as Problem);

/** A server that fails as it is told and keeps what it gets. */
class FakeServer {
  got: string[] = [];
  fail: (() => Error | undefined) | undefined;

  send = async (message: Unsent): Promise<void> => {
    const error = this.fail?.();
    if (error) throw error;
    this.got.push(message.text);
  };
}

describe("the outbox", () => {
  beforeEach(() => {
    localStorage.clear();
    vi.useFakeTimers();
  });
  afterEach(() => vi.useRealTimers());

  it("sends in the order of writing", async () => {
    const server = new FakeServer();
    const outbox = new Outbox("k.", server.send, () => undefined);
    for (const text of ["one", "two", "three"]) outbox.add("chat", text);
    await vi.advanceTimersByTimeAsync(0);
    expect(server.got).toEqual(["one", "two", "three"]);
    expect(outbox.list("chat")).toEqual([]);
  });

  it("keeps the order when the first one has to be sent again", async () => {
    const server = new FakeServer();
    let failures = 3;
    server.fail = () => (failures-- > 0 ? new LostError() : undefined);
    const outbox = new Outbox("k.", server.send, () => undefined);
    outbox.add("chat", "one");
    outbox.add("chat", "two");
    await vi.advanceTimersByTimeAsync(60_000);
    expect(server.got).toEqual(["one", "two"]);
  });

  it("has everything again after a reload, in order and under the same ids", async () => {
    const lost = new FakeServer();
    lost.fail = () => new LostError();
    const before = new Outbox("k.", lost.send, () => undefined);
    const ids = ["one", "two", "three"].map((text) => before.add("chat", text).clientId);
    const server = new FakeServer();
    const after = new Outbox("k.", server.send, () => undefined);
    expect(after.list("chat").map((m) => m.clientId)).toEqual(ids);
    after.wake();
    await vi.advanceTimersByTimeAsync(0);
    expect(server.got).toEqual(["one", "two", "three"]);
    expect(new Outbox("k.", server.send, () => undefined).list("chat")).toEqual([]);
  });

  it("does not overwrite what another tab keeps", () => {
    const lost = new FakeServer();
    lost.fail = () => new LostError();
    const one = new Outbox("k.", lost.send, () => undefined);
    const other = new Outbox("k.", lost.send, () => undefined);
    one.add("chat", "from one tab");
    other.add("chat", "from the other");
    const texts = new Outbox("k.", lost.send, () => undefined).list("chat").map((m) => m.text);
    expect(texts.sort()).toEqual(["from one tab", "from the other"]);
  });

  it("shows what the server refuses, goes on with the rest, and gives the words back", async () => {
    const server = new FakeServer();
    server.fail = () => (server.got.length === 0 ? problem("message-too-long", false) : undefined);
    const outbox = new Outbox("k.", server.send, () => undefined);
    const refused = outbox.add("chat", "too long");
    await vi.advanceTimersByTimeAsync(0);
    server.got.push("later");
    outbox.add("chat", "fine");
    await vi.advanceTimersByTimeAsync(0);
    expect(server.got).toEqual(["later", "fine"]);
    expect(outbox.list("chat")[0]?.problem?.code).toBe("message-too-long");
    expect(outbox.discard(refused.clientId)).toBe("too long");
    expect(outbox.list("chat")).toEqual([]);
  });

  it("waits when it was too fast", async () => {
    const server = new FakeServer();
    let failures = 1;
    server.fail = () => (failures-- > 0 ? problem("too-fast", true) : undefined);
    const outbox = new Outbox("k.", server.send, () => undefined);
    outbox.add("chat", "one");
    await vi.advanceTimersByTimeAsync(0);
    expect(server.got).toEqual([]);
    await vi.advanceTimersByTimeAsync(600);
    expect(server.got).toEqual(["one"]);
  });
});
