import { render } from "@testing-library/react";
import { expect, it } from "vitest";

import { Trans } from "./trans";

it("takes no angle brackets that people wrote for elements of its own", () => {
  const drawn = (name: string) =>
    render(
      <Trans
        id="x"
        message="<0>{name}</0> asks {text}"
        values={{ name, text: "</0> & <0>more</0>" }}
        components={{ 0: <b /> }}
      />,
    ).container;
  const it = drawn("<script>alert(1)</script> <0>Wren</0>");
  expect(it.textContent).toBe("<script>alert(1)</script> <0>Wren</0> asks </0> & <0>more</0>");
  expect(it.querySelectorAll("b")).toHaveLength(1);
  expect(drawn("Wren").textContent).toBe("Wren asks </0> & <0>more</0>");
});
