import { Blob as NodeBlob } from "node:buffer";

import { beforeEach, expect, test, vi } from "vitest";

import { Flow, type Part } from "./flow";
import { unpack } from "./pack";

beforeEach(() => {
  vi.stubGlobal("Blob", NodeBlob); // jsdom's has no streams
});

function flow() {
  let at = 0;
  let emit: (event: unknown) => void = () => undefined;
  const sent: Part[] = [];
  const stopped = vi.fn();
  let begun = 0;
  const made = new Flow("page", {
    record: (to) => {
      emit = to;
      begun++;
      to({ whole: begun });
      return stopped;
    },
    scrub: (events) => events,
    send: (part) => sent.push(part),
    now: () => at,
  });
  return {
    flow: made,
    sent,
    stopped,
    begun: () => begun,
    happens: (event: unknown) => emit(event),
    pass: async (milliseconds: number) => {
      at += milliseconds;
      await made.tick();
    },
  };
}

const read = async (part: Part | undefined) => unpack(part?.data ?? "", 1_000_000);

test("what happens goes out in its order, at the pace at which it is received", async () => {
  const f = flow();
  f.flow.fresh();
  await f.pass(200);
  expect(await read(f.sent[0])).toEqual([{ whole: 1 }]);
  for (let i = 0; i < 5; i++) {
    f.happens({ i });
    await f.pass(200);
  }
  expect(f.sent).toHaveLength(1); // nothing more goes until the first has come
  f.flow.got("page.1", 1);
  await f.pass(200);
  expect(await read(f.sent[1])).toEqual([0, 1, 2, 3, 4].map((i) => ({ i })));
  f.flow.got("page.0", 2);
  f.happens("late");
  await f.pass(200);
  expect(f.sent).toHaveLength(2); // that was of another page
});

test("a page that changes more than gets through is seen less often, and whole each time", async () => {
  const f = flow();
  f.flow.fresh();
  await f.pass(200);
  for (let i = 0; i < 20_000; i++) f.happens({ i });
  expect(f.stopped).toHaveBeenCalled();
  f.flow.got("page.1", 1);
  await f.pass(200);
  expect(f.sent).toHaveLength(1); // it rests
  await f.pass(2000);
  expect(await read(f.sent[1])).toEqual([{ whole: 2 }]);
});

test("when nobody receives, nothing is gathered, and somebody who comes gets the page as it is", async () => {
  const f = flow();
  f.flow.fresh();
  await f.pass(200);
  await f.pass(11_000);
  const before = f.begun();
  f.flow.fresh();
  expect(f.begun()).toBe(before + 1);
  await f.pass(200);
  expect(await read(f.sent.at(-1))).toEqual([{ whole: before + 1 }]);
  // Who comes in the middle, as after a reload, gets a beginning.
  expect(f.sent.at(-1)).toMatchObject({ of: `page.${before + 1}`, part: 1 });
});

test("after the end nothing goes out", async () => {
  const f = flow();
  f.flow.fresh();
  f.flow.end();
  f.happens("later");
  await f.pass(1000);
  expect(f.sent).toHaveLength(0);
});

test("what was lost on the way is tried anew, whole, after a pause that grows", async () => {
  const f = flow();
  f.flow.fresh();
  await f.pass(200);
  const tries: number[] = [];
  for (let second = 0; second < 120; second++) {
    const before = f.sent.length;
    await f.pass(1000);
    if (f.sent.length > before) tries.push(second);
  }
  expect(tries.length).toBeGreaterThan(2);
  expect(tries.length).toBeLessThan(10);
  const pauses = tries.slice(1).map((at, i) => at - (tries[i] ?? 0));
  expect(pauses.at(-1)).toBeGreaterThan(pauses[0] ?? 0);
  expect(await read(f.sent.at(-1))).toEqual([{ whole: f.begun() }]);
});
