import { cleanup, fireEvent, render } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { Keyboard, useAct } from "./keyboard";

const taken = vi.fn();

function TakesNext() {
  useAct("take-next", taken);
  return null;
}

const press = (repeat = false) =>
  fireEvent.keyDown(document.body, { code: "KeyN", key: "n", altKey: true, repeat });

afterEach(() => {
  cleanup();
  taken.mockClear();
});

it("does an act once for one press, however long the key is held", () => {
  render(
    <Keyboard>
      <TakesNext />
    </Keyboard>,
  );
  press();
  for (let i = 0; i < 20; i++) press(true);
  expect(taken).toHaveBeenCalledTimes(1);
});

it("does nothing behind a dialog that waits for an answer", () => {
  render(
    <Keyboard>
      <TakesNext />
      <div className="MuiDialog-root" />
    </Keyboard>,
  );
  press();
  expect(taken).not.toHaveBeenCalled();
});
