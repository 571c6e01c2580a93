import { useQuery } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import { useDeskPart } from "../desk/provider";

/** Asks for my rooms; they are asked for anew when somebody wrote. */
export function useRooms() {
  const talkMoves = useDeskPart((s) => s.talkMoves);
  const connection = useDeskPart((s) => s.connection);
  return useQuery({
    queryKey: ["rooms", talkMoves],
    queryFn: () => ask(api.GET("/api/rooms")),
    placeholderData: (before) => before,
    enabled: connection === "live",
  });
}
