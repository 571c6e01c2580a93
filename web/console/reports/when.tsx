import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useNavigate } from "react-router";

import { chatsBehind } from "../filters/asked";
import { Bars, colours, Legend, type Series } from "../kit/charts";
import { Breakdown } from "./breakdown";
import { ByDate, SpeedByDate } from "./by-date";
import { Counted } from "./counted";
import { count } from "./figures";
import { Heat } from "./heat";
import { Loaded } from "./loaded";
import { useBehind, useReport } from "./use-report";
import { weekdayName } from "./weekday";

/** When chats come: by date, by weekday, by hour, and both together. */
export default function When() {
  const byDate = useReport("date");
  const heat = useReport("weekday-hour", false, true);
  const byHour = useReport("hour", false, true);
  const byWeekday = useReport("weekday", false, true);
  const behind = useBehind();
  const navigate = useNavigate();
  const hours = byHour.data?.rows ?? [];
  const series: Series[] = [
    { name: t`answered`, colour: colours.data, values: hours.map((r) => r.answered) },
    { name: t`messages`, colour: colours.pale, values: hours.map((r) => r.messages) },
    { name: t`missed`, colour: colours.trouble, values: hours.map((r) => r.missed) },
  ];
  return (
    <Loaded report={byDate}>
      {(report) => (
        <>
          <section className="sheet">
            <h2>
              <Trans>By date</Trans>
            </h2>
            <ByDate report={report} height={240} />
          </section>
          <div className="two">
            <section className="sheet">
              <h2>
                <Trans>By weekday and hour</Trans>
              </h2>
              {heat.data ? <Heat rows={heat.data.rows} /> : null}
            </section>
            <section className="sheet">
              <h2>
                <Trans>By hour</Trans>
              </h2>
              <Legend series={series} />
              <Bars
                label={t`Chats by hour`}
                places={hours.map((r) => String(Number(r.key)))}
                series={series}
                height={220}
                say={(n) => count(n)}
                pick={(place) => void navigate(chatsBehind(behind, { hour: String(place) }))}
              />
            </section>
          </div>
          <div className="two">
            <section className="sheet">
              <h2>
                <Trans>How fast, by date</Trans>
              </h2>
              <SpeedByDate report={report} />
            </section>
            <Breakdown
              title={t`By weekday`}
              rows={byWeekday.data?.rows ?? []}
              nameOf={(key) => weekdayName(Number(key), "long")}
              filter="weekday"
              columns={["missed", "target", "wait"]}
            />
          </div>
          <Counted codes={["chats", "answered", "missed", "messages", "wait", "in-target", "percentiles"]} />
        </>
      )}
    </Loaded>
  );
}
