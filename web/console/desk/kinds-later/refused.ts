import type { Kind } from "../kind";

export default { look: "beside" } satisfies Kind;
