import { expect, it, vi } from "vitest";

import { eventually } from "../../../shared/eventually";
import { FakeServer, maren, refused } from "../fake-desk";
import { makeStores } from "./stores";
import { Uploads } from "./uploads";

it("does not take a file back that was given up while it was on its way", async () => {
  const server = new FakeServer();
  let answer: () => void = () => undefined;
  server.hold.set("POST /api/chats/wren/stored-files", new Promise((resolve) => (answer = resolve)));
  server.answers.set("POST /api/chats/wren/stored-files", refused("There is no space for files right now"));
  vi.stubGlobal("fetch", server.fetch);
  const stores = makeStores(maren);
  const uploads = new Uploads(stores, vi.fn());
  const list = () => stores.uploads.getState().uploads.get("wren") ?? [];
  const stored = {
    id: "f1",
    name: "deck.pdf",
    type: "application/pdf",
    kind: "pdf" as const,
    size: 10,
    url: "/files/f1",
  };
  uploads.share("wren", [
    { key: "1", stored },
    { key: "2", stored: { ...stored, id: "f2", name: "fares.pdf" } },
  ]);
  expect(list().map((u) => u.name)).toEqual(["deck.pdf", "fares.pdf"]);
  await eventually(() => expect(server.sent).toHaveLength(2));
  uploads.cancel("wren", list()[0]?.clientId ?? "");
  answer();
  await eventually(() => expect(list().at(-1)?.trouble).toBeTruthy());
  expect(list().map((u) => u.name)).toEqual(["fares.pdf"]);
});
