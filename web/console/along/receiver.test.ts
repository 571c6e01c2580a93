import { Blob as NodeBlob } from "node:buffer";

import { beforeEach, describe, expect, it, vi } from "vitest";

import { eventually } from "../../shared/eventually";
import { pack } from "../../widget/along/pack";
import { Receiver } from "./receiver";

beforeEach(() => {
  vi.stubGlobal("Blob", NodeBlob); // jsdom's has no streams
});

const part = (n: number, data: string, more = false, of = "page") => ({ of, part: n, data, more });

describe("parts of a page", () => {
  it("are put together in their order", async () => {
    const seen: unknown[] = [];
    const lost = vi.fn();
    const receiver = new Receiver((events) => seen.push(...events), lost);
    const packed = await pack(["a", "b"]);
    receiver.take(part(1, packed.slice(0, 7), true));
    receiver.take(part(2, packed.slice(7)));
    receiver.take(part(3, await pack(["c"])));
    await eventually(() => expect(seen).toEqual(["a", "b", "c"]));
    receiver.take(part(1, await pack(["next page"]), false, "another"));
    await eventually(() => expect(seen.at(-1)).toBe("next page"));
    expect(lost).not.toHaveBeenCalled();
  });

  it("that are missing, or cannot be read, let the whole page be asked for", async () => {
    const lost = vi.fn();
    const receiver = new Receiver(() => undefined, lost);
    receiver.take(part(1, await pack(["a"])));
    receiver.take(part(3, await pack(["c"])));
    expect(lost).toHaveBeenCalledTimes(1);
    receiver.take(part(4, await pack(["in the middle"]), false, "late"));
    expect(lost).toHaveBeenCalledTimes(2);
    receiver.take(part(1, btoa("no gzip"), false, "broken"));
    await eventually(() => expect(lost).toHaveBeenCalledTimes(3));
  });
});
