import type { QueryClient } from "@tanstack/react-query";

import type { OperatorView } from "../../shared/types";

/**
 * Lets somebody in who has logged in. What was asked for by whoever used this
 * tab before is forgotten first: they must not see it.
 */
export function enter(queries: QueryClient, operator: OperatorView): void {
  queries.removeQueries({ predicate: (query) => query.queryKey[0] !== "me" });
  queries.setQueryData(["me"], operator);
}
