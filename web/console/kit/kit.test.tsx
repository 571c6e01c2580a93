import { fireEvent, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { expect, it, vi } from "vitest";

import { Combo } from "./combo";
import { Confirm } from "./confirm";
import { Hint, Hints } from "./hint";
import { PaneEdge } from "./pane-edge";

it("a hint is told to the pointer and to the keyboard, and goes by Esc", async () => {
  const user = userEvent.setup();
  render(
    <>
      <Hint words="Attach files" act="attach">
        <button>clip</button>
      </Hint>
      <button>other</button>
      <Hints />
    </>,
  );
  fireEvent.pointerEnter(screen.getByText("clip"));
  expect((await screen.findByRole("tooltip")).textContent).toBe("Attach files (Alt L)");
  await user.keyboard("{Escape}");
  await waitFor(() => expect(screen.queryByRole("tooltip")).toBeNull());
  await user.tab();
  await screen.findByRole("tooltip");
  await user.tab();
  await waitFor(() => expect(screen.queryByRole("tooltip")).toBeNull());
});

it("a hint goes with the control that it belongs to", async () => {
  const page = (control: boolean) => (
    <>
      {control ? (
        <Hint words="Take it">
          <button>take</button>
        </Hint>
      ) : null}
      <Hints />
    </>
  );
  const { rerender } = render(page(true));
  fireEvent.pointerEnter(screen.getByText("take"));
  await screen.findByRole("tooltip");
  rerender(page(false));
  await waitFor(() => expect(screen.queryByRole("tooltip")).toBeNull());
});

it("a line with suggestions takes what is typed as well as what is chosen", async () => {
  const user = userEvent.setup();
  const settled: string[] = [];
  function Field() {
    const [value, setValue] = useState("");
    return (
      <Combo
        label="Tag"
        value={value}
        change={setValue}
        options={["cabin", "ramp"]}
        settle={(v) => settled.push(v)}
      />
    );
  }
  render(<Field />);
  const field = screen.getByRole("combobox", { name: "Tag" });
  await user.type(field, "ra{ArrowDown}{Enter}");
  expect(settled.at(-1)).toBe("ramp");
  await user.clear(field);
  await user.type(field, "wheelchair{Enter}");
  expect(settled.at(-1)).toBe("wheelchair");
});

it("an edge follows the pointer and the arrows, in the direction of reading", () => {
  const change = vi.fn();
  const drawn = () => <PaneEdge label="Width" value={272} min={200} max={300} onChange={change} />;
  const { rerender } = render(drawn());
  const edge = screen.getByRole("separator", { name: "Width" });
  fireEvent.keyDown(edge, { key: "ArrowRight" });
  expect(change).toHaveBeenLastCalledWith(288);
  document.dir = "rtl";
  rerender(drawn());
  fireEvent.keyDown(edge, { key: "ArrowRight" });
  expect(change).toHaveBeenLastCalledWith(256);
  document.dir = "ltr";
  fireEvent.keyDown(edge, { key: "ArrowRight", altKey: true }); // a shortcut of somebody else's
  expect(change).toHaveBeenCalledTimes(2);
});

it("a question is answered by its buttons, and Esc means no", async () => {
  const user = userEvent.setup();
  const [yes, no] = [vi.fn(), vi.fn()];
  render(
    <Confirm title="Remove it?" yes="Remove" no="Keep" onYes={yes} onNo={no}>
      It is gone for good.
    </Confirm>,
  );
  expect(document.activeElement?.textContent).toBe("Remove");
  await user.keyboard("{Escape}");
  expect(no).toHaveBeenCalledTimes(1);
  await user.click(screen.getByRole("button", { name: "Remove" }));
  expect(yes).toHaveBeenCalledTimes(1);
});
