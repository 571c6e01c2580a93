import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";

import { api, ask } from "../../shared/api";
import type { Spread } from "../../shared/types";
import { chatsBehind } from "../filters/asked";
import { useChoices } from "../filters/choices";
import { Bars, colours } from "../kit/charts";
import { Breakdown } from "./breakdown";
import { SpeedByDate } from "./by-date";
import { Counted } from "./counted";
import { count, enough, seconds } from "./figures";
import { Loaded } from "./loaded";
import { missedWords } from "./missed";
import { useAsked, useBehind, useReport } from "./use-report";

/** How fast visitors were answered: how times are spread, not only their middle. */
export default function Speed() {
  const { asked } = useAsked();
  const choices = useChoices();
  const byDate = useReport("date");
  const byDepartment = useReport("department", false, true);
  const missed = useReport("missed", false, true);
  const speed = useQuery({
    queryKey: ["report-speed", asked],
    queryFn: () => ask(api.GET("/api/reports/speed", { params: { query: asked } })),
    placeholderData: keepPreviousData,
  });
  return (
    <Loaded report={byDate}>
      {(report) => (
        <>
          <div className="three">
            <SpreadSheet
              title={t`Wait`}
              spread={speed.data?.wait}
              from="waitFrom"
              to="waitTo"
              targets={speed.data?.targets ?? []}
            />
            <SpreadSheet
              title={t`First reply`}
              spread={speed.data?.first}
              from="firstFrom"
              to="firstTo"
              targets={[]}
            />
            <SpreadSheet title={t`Later replies`} spread={speed.data?.later} targets={[]} />
          </div>
          <div className="two">
            <section className="sheet">
              <h2>
                <Trans>By date</Trans>
              </h2>
              <SpeedByDate report={report} height={220} />
            </section>
            <Breakdown
              title={t`By department`}
              rows={byDepartment.data?.rows ?? []}
              nameOf={(key) => choices?.departments.find((d) => d.id === key)?.name ?? t`none`}
              filter="department"
              columns={["target", "wait", "first", "handling"]}
            />
          </div>
          <Breakdown
            title={t`Why chats were missed`}
            rows={(missed.data?.rows ?? []).filter((r) => r.key !== "-")}
            nameOf={missedWords}
            filter="missed"
            columns={["wait"]}
          />
          <Counted
            codes={[
              "wait",
              "in-target",
              "first-reply",
              "later-reply",
              "replies-in-target",
              "missed",
              "handling",
              "percentiles",
            ]}
          />
        </>
      )}
    </Loaded>
  );
}

interface Props {
  title: string;
  spread: Spread | undefined;
  from?: "waitFrom" | "firstFrom";
  to?: "waitTo" | "firstTo";
  targets: number[];
}

/** How a time is spread: a bar for each stretch of it, with the percentiles beneath. */
function SpreadSheet({ title, spread, from, to, targets }: Props) {
  const behind = useBehind();
  const navigate = useNavigate();
  if (!spread) return <section className="sheet waiting" aria-busy="true" />;
  // Long stretches at the end that nobody waited are left out.
  const last = spread.bins.findLastIndex((b) => b.n > 0);
  const bins = spread.bins.slice(0, Math.max(last + 1, 8));
  const target = targets.length === 1 ? targets[0] : undefined;
  const places = bins.map((b) => (b.to === 0 ? `${short(b.from)}+` : short(b.to)));
  const pick =
    from && to
      ? (place: number) => {
          const bin = bins[place];
          if (bin)
            void navigate(
              chatsBehind(behind, { [from]: String(bin.from || ""), [to]: String(bin.to || "") }),
            );
        }
      : undefined;
  const late = (from: number) => target !== undefined && from >= target;
  return (
    <section className="sheet">
      <h2>{title}</h2>
      <Bars
        label={t`${title}: how many chats took how long`}
        places={places}
        series={[
          { name: t`chats`, colour: colours.data, values: bins.map((b) => (late(b.from) ? 0 : b.n)) },
          {
            name: t`chats, over the target`,
            colour: colours.trouble,
            values: bins.map((b) => (late(b.from) ? b.n : 0)),
          },
        ]}
        height={180}
        say={(n) => count(n)}
        {...(pick ? { pick } : {})}
      />
      <p className="axis-words">
        <Trans>up to so long (minutes:seconds)</Trans>
      </p>
      {spread.n < enough ? (
        <p className="none">
          <Trans>Too few for percentiles: {count(spread.n)}.</Trans>
        </p>
      ) : (
        <dl className="percentiles">
          {["50", "75", "90", "95", "99"].map((p) => (
            <div key={p}>
              <dt>{p === "50" ? t`median` : t`${p} %`}</dt>
              <dd>{seconds(spread.percentiles[p])}</dd>
            </div>
          ))}
          <div>
            <dt>
              <Trans>mean</Trans>
            </dt>
            <dd>{seconds(spread.mean)}</dd>
          </div>
        </dl>
      )}
    </section>
  );
}

function short(s: number): string {
  return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
}
