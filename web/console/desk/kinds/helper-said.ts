import type { Kind } from "../kind";

export default { look: "words" } satisfies Kind;
