import { useQuery } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import type { TranscriptChoices } from "../../shared/types";

/** Returns what reports and transcripts can be narrowed to, when it is known. */
export function useChoices(): TranscriptChoices | undefined {
  return useQuery({
    queryKey: ["transcript-choices"],
    queryFn: () => ask(api.GET("/api/transcripts/choices")),
    staleTime: 60_000,
    refetchInterval: (query) => (query.state.data?.loading ? 2000 : query.state.data?.behind ? 5000 : 60_000),
  }).data;
}
