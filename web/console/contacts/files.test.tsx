import { screen } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { ContactImport } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer, fine, refused } from "../desk/fake-desk";
import { ContactFiles } from "./files";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

let server: FakeServer;
beforeEach(() => {
  localStorage.clear();
  server = new FakeServer();
});

const button = (name: string) => screen.getByRole("button", { name });

describe("contacts from a file", () => {
  const plan: ContactImport = {
    add: 240,
    change: 1,
    same: 3,
    rejected: 1,
    unknown: ["Shoe size"],
    lines: [{ number: 1, before: "Nell · 01632 960 100", after: "Nell · 01632 960 101" }],
    refused: [{ number: 2, words: ["Give a name, an email or a phone number."] }],
  };

  it("are told by card, with what is left out, and taken in when told to", async () => {
    const cards = new File(["BEGIN:VCARD\r\nVERSION:4.0\r\nEND:VCARD\r\n"], "all.vcf", {
      type: "text/vcard",
    });
    server.answers.set("POST /api/contacts/import?apply=false", fine(plan));
    server.answers.set("POST /api/contacts/import?apply=true", refused("Changed meanwhile", {}));
    const { user } = await draw(server, <ContactFiles />);
    await user.click(await screen.findByRole("button", { name: "Import" }));
    await user.upload(screen.getByLabelText("Choose a file"), cards);
    await screen.findByText("240 to add, 1 to change, 3 unchanged, 1 rejected.");
    expect(screen.getByText("Card 2").parentElement?.textContent).toContain("Give a name");
    expect(screen.getByText("Nothing is taken from these columns: Shoe size.")).toBeTruthy();
    expect(screen.getByText("and 240 more")).toBeTruthy();
    await user.click(button("Import 241"));
    await screen.findByText(/Changed meanwhile/);
    expect(button("Import 241")).toHaveProperty("disabled", false);
    server.answers.set("POST /api/contacts/import?apply=true", fine(plan));
    await user.click(button("Import 241"));
    await screen.findByText("Done: 240 added, 1 changed.");
  });
});
