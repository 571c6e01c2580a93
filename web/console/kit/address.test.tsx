import { act, render, screen } from "@testing-library/react";
import { MemoryRouter, useNavigate } from "react-router";
import { expect, it } from "vitest";

import { useAddress } from "./address";

let change: (part: Record<string, string>) => void;
let go: (to: string) => void;

function Page() {
  const [address, changes] = useAddress();
  const navigate = useNavigate();
  const shows = (
    <output ref={() => void ((change = changes), (go = (to) => void navigate(to)))}>
      {address.toString()}
    </output>
  );
  return shows;
}

const address = () => screen.getByRole("status").textContent;

it("keeps what two places changed at the same moment, and forgets it with the next address", () => {
  render(
    <MemoryRouter initialEntries={["/visitors?group=page"]}>
      <Page />
    </MemoryRouter>,
  );
  act(() => {
    change({ visitor: "v1" });
    change({ words: "lorry" }); // before the first is drawn
  });
  expect(address()).toBe("group=page&visitor=v1&words=lorry");
  act(() => change({ words: "" }));
  expect(address()).toBe("group=page&visitor=v1");
  act(() => go("/visitors?group=page"));
  act(() => change({ sort: "basket" }));
  expect(address()).toBe("group=page&sort=basket");
});
