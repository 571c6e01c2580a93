import { screen } from "@testing-library/react";
import { useState } from "react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import type { DeskSettings } from "../../shared/types";
import { draw } from "../desk/drawn";
import { FakeServer } from "../desk/fake-desk";
import { OwnFields } from "./own-fields";

vi.mock("../../shared/live", async () => {
  const { FakeLive } = await import("../../shared/fake-live");
  return { Live: FakeLive, liveURL: (path: string) => path };
});

type Fields = DeskSettings["contactFields"];

const first: Fields = [
  { name: "order", label: "Order", kind: "text" },
  { name: "amount", label: "Amount", kind: "number" },
];

let now: Fields;
beforeEach(() => {
  localStorage.clear();
  now = first;
});

function Form() {
  const [fields, setFields] = useState(first);
  const change = (next: Fields) => {
    now = next;
    setFields(next);
  };
  return <OwnFields fields={fields} change={change} wrong={undefined} />;
}

const label = (n: number) => screen.getByRole<HTMLInputElement>("textbox", { name: `field ${n}` });

describe("fields of the team's own", () => {
  it("keep what was noted in them when they are renamed: their name stays, only the label changes", async () => {
    const { user } = await draw(new FakeServer(), <Form />);
    await user.clear(label(1));
    await user.type(label(1), "Booking");
    expect(now).toEqual([{ name: "order", label: "Booking", kind: "text" }, first[1]]);
  });

  it("go alone when they are removed, and a new one has no name until it is saved", async () => {
    const { user } = await draw(new FakeServer(), <Form />);
    await user.click(screen.getByRole("button", { name: "Remove Order" }));
    expect(now).toEqual([first[1]]);
    await user.click(screen.getByRole("button", { name: /^Add/ }));
    await user.type(label(2), "Vessel");
    expect(now).toEqual([first[1], { name: "", label: "Vessel", kind: "text" }]);
  });

  it("change their kind and nothing else", async () => {
    const { user } = await draw(new FakeServer(), <Form />);
    await user.click(screen.getAllByRole("combobox")[0] as HTMLElement);
    await user.click(await screen.findByRole("option", { name: "date" }));
    expect(now).toEqual([{ name: "order", label: "Order", kind: "date" }, first[1]]);
  });
});
