import { useQuery } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import { useTeam } from "../desk/provider";

/** Asks for my rooms; they are asked for anew when somebody wrote. */
export function useRooms() {
  const connection = useTeam((s) => s.connection);
  return useQuery({
    queryKey: ["rooms"],
    queryFn: () => ask(api.GET("/api/rooms")),
    placeholderData: (before) => before,
    enabled: connection === "live",
  });
}
