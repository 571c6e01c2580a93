import { t } from "@lingui/core/macro";
import { useNavigate } from "react-router";

import { chatsBehind } from "../filters/asked";
import { useChoices } from "../filters/choices";
import { Bars, colours } from "../kit/charts";
import { Breakdown } from "./breakdown";
import { dateName, lastDayOf } from "./by-date";
import { Card } from "./cards";
import { Counted } from "./counted";
import { amountWords, count, countChange, enough, moneyIn, percent } from "./figures";
import { Loaded } from "./loaded";
import { useBehind, useReport } from "./use-report";

/** What was sold in chats, and what each answered chat brought. */
export default function Sales() {
  const choices = useChoices();
  const byDate = useReport("date", true);
  const tags = useReport("tag", false, true);
  const departments = useReport("department", false, true);
  const pages = useReport("page", false, true);
  const behind = useBehind();
  const navigate = useNavigate();
  return (
    <Loaded report={byDate}>
      {(report) => {
        const { total, earlier } = report;
        const each =
          total.answered === 0
            ? "–"
            : total.sales
                .map((a) => moneyIn(Math.round(a.cents / total.answered), a.currency, false))
                .join(", ") || "–";
        const currency = total.sales[0]?.currency ?? "EUR";
        return (
          <>
            <div className="cards">
              <Card
                name={t`Sales`}
                value={amountWords(total.sales)}
                note={t`in ${count(total.sold)} chats`}
              />
              <Card
                name={t`Chats with a sale`}
                value={count(total.sold)}
                to={chatsBehind(behind, { sold: "yes" })}
                change={countChange(total.sold, earlier?.sold)}
                note={
                  total.answered < enough
                    ? t`of ${count(total.answered)} answered`
                    : t`${percent(total.sold / total.answered)} of those answered`
                }
              />
              <Card
                name={t`Each answered chat brought`}
                value={each}
                note={t`in the mean, with and without a sale`}
              />
            </div>
            <section className="sheet">
              <h2>{t`Sales by date, in ${currency}`}</h2>
              <Bars
                label={t`Sales by date`}
                places={report.rows.map((r) => dateName(r.key, report.unit))}
                series={[
                  {
                    name: t`sales`,
                    colour: colours.data,
                    values: report.rows.map((r) => r.sales.find((a) => a.currency === currency)?.cents ?? 0),
                  },
                ]}
                height={210}
                wide
                say={(cents) => moneyIn(cents, currency)}
                pick={(place) => {
                  const key = report.rows[place]?.key;
                  if (!key) return;
                  const last = lastDayOf(key, report.unit);
                  void navigate(
                    chatsBehind(behind, {
                      from: key < report.period.from ? report.period.from : key,
                      to: last > report.period.to ? report.period.to : last,
                      sold: "yes",
                    }),
                  );
                }}
              />
            </section>
            <div className="two">
              <Breakdown
                title={t`By tag`}
                rows={tags.data?.rows ?? []}
                nameOf={(key) => (key === "-" ? t`no tag` : key)}
                filter="tag"
                columns={["sold", "sales"]}
              />
              <Breakdown
                title={t`By page`}
                rows={pages.data?.rows ?? []}
                nameOf={(key) => (key === "-" ? t`not known` : key)}
                filter="page"
                columns={["sold", "sales"]}
              />
            </div>
            <Breakdown
              title={t`By department`}
              rows={departments.data?.rows ?? []}
              nameOf={(key) => choices?.departments.find((d) => d.id === key)?.name ?? t`none`}
              filter="department"
              columns={["answered", "sold", "sales"]}
            />
            <Counted codes={["sales", "answered", "compare"]} />
          </>
        );
      }}
    </Loaded>
  );
}
