import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";

import { Breakdown } from "./breakdown";
import { ByDate } from "./by-date";
import { Cards } from "./cards";
import { Counted } from "./counted";
import { Heat } from "./heat";
import { Loaded } from "./loaded";
import { OperatorsTable } from "./operators";
import { useReport } from "./use-report";

/** What a lead looks at first: how many, how fast, when, who, what about. */
export default function Overview() {
  const byDate = useReport("date", true);
  const heat = useReport("weekday-hour", false, true);
  const tags = useReport("tag", false, true);
  return (
    <Loaded report={byDate}>
      {(report) => (
        <>
          <Cards report={report} />
          <div className="two">
            <section className="sheet">
              <header>
                <h2>
                  <Trans>Chats by weekday and hour</Trans>
                </h2>
                <p className="steps" aria-hidden="true">
                  <Trans>few</Trans>
                  {[1, 2, 3, 4, 5, 6].map((n) => (
                    <i key={n} className={`step-${n}`} />
                  ))}
                  <Trans>many</Trans>
                </p>
              </header>
              {heat.data ? <Heat rows={heat.data.rows} /> : null}
            </section>
            <section className="sheet">
              <header>
                <h2>
                  {report.unit === "day"
                    ? t`Chats by day`
                    : report.unit === "week"
                      ? t`Chats by week`
                      : t`Chats by month`}
                </h2>
              </header>
              <ByDate report={report} />
            </section>
          </div>
          <div className="two">
            <OperatorsTable brief />
            <Breakdown
              title={t`What they were about`}
              rows={(tags.data?.rows ?? []).slice(0, 8)}
              nameOf={(key) => (key === "-" ? t`no tag` : key)}
              filter="tag"
              columns={["answered", "first", "rating"]}
            />
          </div>
          <Counted
            codes={[
              "chats",
              "answered",
              "missed",
              "messages",
              "in-target",
              "wait",
              "first-reply",
              "percentiles",
              "rating",
              "interval",
              "compare",
            ]}
          />
        </>
      )}
    </Loaded>
  );
}
