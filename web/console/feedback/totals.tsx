import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";

import type { FeedbackSummary } from "../../shared/types";
import { enough, percent } from "../reports/figures";
import { ratingWords } from "../words/codes";

interface Props {
  summary: FeedbackSummary;
  /** The rating that is looked at alone; 0 for all. */
  rating: number;
  choose: (rating: number) => void;
}

/** What all feedback of a period adds up to, with how sure that is. */
export function Totals({ summary, rating, choose }: Props) {
  const { asked, rated, ratings, response, content } = summary;
  const most = Math.max(1, ...ratings);
  return (
    <div className="totals">
      <p>
        {asked === 0 ? (
          <Trans>Nobody was asked in this time.</Trans>
        ) : (
          <>
            <b>{plural(rated, { one: "# rating", other: "# ratings" })}</b>{" "}
            {plural(asked, { one: "from # visitor asked", other: "from # visitors asked" })}
            {asked >= enough ? ` (${percent(response.share)})` : ""}
          </>
        )}
      </p>
      {rated >= enough ? (
        <p>
          <b>
            <Trans>{percent(content.share)} content</Trans>
          </b>{" "}
          <Trans>
            surely {percent(content.low)} to {percent(content.high)}
          </Trans>
        </p>
      ) : rated > 0 ? (
        <p>
          <Trans>Too few for a share: fewer than {enough}.</Trans>
        </p>
      ) : null}
      <ul aria-label={t`Ratings`}>
        {ratings
          .map((count, i) => ({ count, value: i + 1 }))
          .reverse()
          .map(({ count, value }) => (
            <li key={value}>
              <button
                aria-pressed={rating === value}
                onClick={() => choose(rating === value ? 0 : value)}
                title={t`Show these alone`}
              >
                <span>{ratingWords(value)}</span>
                <span className="bar" aria-hidden="true">
                  <i
                    style={{ inlineSize: `${(100 * count) / most}%` }}
                    className={value <= 2 ? "poor" : ""}
                  />
                </span>
                <span className="n">{count}</span>
              </button>
            </li>
          ))}
      </ul>
      <details>
        <summary>
          <Trans>How is this counted?</Trans>
        </summary>
        <p>
          <Trans>
            Asked are the visitors of answered chats that ended in the period, while the widget’s survey was
            on; missed chats and messages are not asked. Of a chat rated more than once the last rating
            counts. Content means good or very good. “Surely” is Wilson’s 95 % interval: of a hundred such
            intervals, 95 hold the true share.
          </Trans>
        </p>
      </details>
    </div>
  );
}
