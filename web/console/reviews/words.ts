import { t } from "@lingui/core/macro";

import type { ReviewDraw, ReviewView } from "../../shared/types";

/** Says by what a draw is spread evenly. */
export function spreadWords(spread: ReviewDraw["spread"]): string {
  return {
    operator: t`operator`,
    rating: t`rating`,
    length: t`length of the chat`,
    outcome: t`outcome`,
  }[spread];
}

export type Score = ReviewView["scores"][number]["score"];

/** Says how a point was met. */
export function scoreWords(score: Score): string {
  return { yes: t`met`, partly: t`partly`, no: t`not met`, none: t`does not apply` }[score];
}

/** Says what the scores of a review add up to. */
export function pointsWords({ points, of }: { points: number; of: number }): string {
  return of > 0 ? t`${points} of ${of} points` : t`no points`;
}
