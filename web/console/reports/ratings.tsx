import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Link, useNavigate } from "react-router";

import { chatsBehind } from "../filters/asked";
import { useChoices } from "../filters/choices";
import { Bars, colours, Lines } from "../kit/charts";
import { ratingWords } from "../words/codes";
import { Breakdown } from "./breakdown";
import { dateName } from "./by-date";
import { Card } from "./cards";
import { Counted } from "./counted";
import { count, enough, one, percent, ratingChange, shareWords, surely } from "./figures";
import { Loaded } from "./loaded";
import { useBehind, useReport } from "./use-report";

/** How visitors rated, with how many did and how sure it is; the words stand in Feedback. */
export default function Ratings() {
  const choices = useChoices();
  const byDate = useReport("date", true);
  const byDepartment = useReport("department", false, true);
  const byTag = useReport("tag", false, true);
  const behind = useBehind();
  const navigate = useNavigate();
  const words = new URLSearchParams();
  for (const name of ["from", "to", "department", "operator"]) {
    const value = behind.get(name);
    if (value) words.set(name, value);
  }
  return (
    <Loaded report={byDate}>
      {(report) => {
        const { total, earlier } = report;
        return (
          <>
            <div className="cards">
              <Card
                name={t`Rating`}
                value={total.rating === undefined ? "–" : t`${one(total.rating)} of 5`}
                change={ratingChange(total, earlier)}
                note={t`${count(total.good.of)} ratings`}
              />
              <Card name={t`Good or very good`} value={shareWords(total.good)} note={surely(total.good)} />
              <Card
                name={t`Answered the survey`}
                value={total.asked === 0 ? "–" : percent(total.good.of / total.asked)}
                note={t`of ${count(total.asked)} who were asked`}
              />
              <div className="card">
                <h3>
                  <Trans>In their words</Trans>
                </h3>
                <p className="value small">
                  <Link to={`/feedback?${words.toString()}`}>
                    <Trans>Read what they said</Trans>
                  </Link>
                </p>
                <p className="note">
                  <Trans>with the transcript of each</Trans>
                </p>
              </div>
            </div>
            <div className="two">
              <section className="sheet">
                <h2>
                  <Trans>How many of each</Trans>
                </h2>
                <Bars
                  label={t`Ratings`}
                  places={[1, 2, 3, 4, 5].map(ratingWords)}
                  series={[
                    {
                      name: t`ratings`,
                      colour: colours.data,
                      values: total.ratings.map((n, i) => (i < 2 ? 0 : n)),
                    },
                    {
                      name: t`low ratings`,
                      colour: colours.trouble,
                      values: total.ratings.map((n, i) => (i < 2 ? n : 0)),
                    },
                  ]}
                  height={210}
                  say={(n) => count(n)}
                  pick={(place) => void navigate(chatsBehind(behind, { rating: String(place + 1) }))}
                />
              </section>
              <section className="sheet">
                <h2>
                  <Trans>Mean by date</Trans>
                </h2>
                <Lines
                  label={t`Mean rating by date`}
                  places={report.rows.map((r) => dateName(r.key, report.unit))}
                  series={[
                    {
                      name: t`mean rating`,
                      colour: colours.data,
                      values: report.rows.map((r) => (r.good.of < enough ? null : (r.rating ?? null))),
                    },
                  ]}
                  height={210}
                  most={5}
                  say={one}
                />
                <p className="axis-words">
                  <Trans>Days with fewer than {enough} ratings have no point.</Trans>
                </p>
              </section>
            </div>
            <div className="two">
              <Breakdown
                title={t`By department`}
                rows={byDepartment.data?.rows ?? []}
                nameOf={(key) => choices?.departments.find((d) => d.id === key)?.name ?? t`none`}
                filter="department"
                columns={["rated", "rating", "good"]}
              />
              <Breakdown
                title={t`By tag`}
                rows={byTag.data?.rows ?? []}
                cut={byTag.data?.cut ?? false}
                nameOf={(key) => (key === "-" ? t`no tag` : key)}
                filter="tag"
                columns={["rated", "rating", "good"]}
              />
            </div>
            <Counted codes={["rating", "interval", "compare"]} />
          </>
        );
      }}
    </Loaded>
  );
}
