import "./charts.css";

import { BarChart, BarPlot } from "@mui/x-charts/BarChart";
import { ChartsContainer as ChartContainer } from "@mui/x-charts/ChartsContainer";
import { ChartsGrid } from "@mui/x-charts/ChartsGrid";
import { ChartsTooltip } from "@mui/x-charts/ChartsTooltip";
import { ChartsXAxis } from "@mui/x-charts/ChartsXAxis";
import { ChartsYAxis } from "@mui/x-charts/ChartsYAxis";
import { LineChart, LinePlot } from "@mui/x-charts/LineChart";

/** What is drawn of one thing: a number for each place along the axis; null where there is none. */
export interface Series {
  name: string;
  /** A colour of the theme, or hatched for what is to be noticed. */
  colour: string;
  values: (number | null)[];
}

interface Props {
  /** What the chart shows, for those who do not see it; its numbers stand in a table beside it. */
  label: string;
  places: string[];
  series: Series[];
  height: number;
  /** Says a number with its unit. */
  say: (value: number) => string;
  /** Called with the place and the series that was picked. */
  pick?: (place: number, series: number) => void;
  /** The numbers beside the axis are long, as amounts of money are. */
  wide?: boolean;
  /** The largest value that there may be. */
  most?: number;
}

const hatch = "url(#stoop-hatch)";

/** The colours of charts. */
export const colours = {
  data: "var(--slate-mark)",
  pale: "var(--heat-3)",
  plain: "var(--ink-3)",
  strong: "var(--heat-6)",
  trouble: hatch,
  amber: "var(--amber-mark)",
};

const axisText = { fill: "var(--ink-3)", fontSize: 11.5 };
const common = {
  skipAnimation: true,
  hideLegend: true,
  margin: { left: 0, right: 18, top: 8, bottom: 0 },
  grid: { horizontal: true },
  sx: {
    "& .MuiChartsAxis-root .MuiChartsAxis-line, & .MuiChartsAxis-root .MuiChartsAxis-tick": {
      stroke: "var(--line-2)",
    },
    "& .MuiChartsGrid-line": { stroke: "var(--line)" },
  },
};

function Hatch() {
  return (
    <defs>
      <pattern
        id="stoop-hatch"
        width="5"
        height="5"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <rect width="5" height="5" fill="var(--late-tint)" />
        <rect width="2.4" height="5" fill="var(--late-mark)" />
      </pattern>
    </defs>
  );
}

/** Bars that stand on each other, one for each place. */
export function Bars({ label, places, series, height, say, pick, wide = false }: Props) {
  return (
    <figure className={pick ? "chart picks" : "chart"} aria-label={label}>
      <BarChart
        {...common}
        height={height}
        xAxis={[
          { data: places, scaleType: "band", categoryGapRatio: 0.25, tickLabelStyle: axisText, height: 24 },
        ]}
        yAxis={[
          {
            tickLabelStyle: axisText,
            width: wide ? 66 : 44,
            valueFormatter: (value: number) => say(value),
            tickMinStep: 1,
          },
        ]}
        series={series.map((s, i) => ({
          id: String(i),
          data: s.values,
          label: s.name,
          color: s.colour,
          stack: "all",
          valueFormatter: (value: number | null) => (value === null ? "" : say(value)),
        }))}
        {...(pick
          ? {
              onItemClick: (_: unknown, item: { dataIndex: number; seriesId: string | number }) =>
                pick(item.dataIndex, Number(item.seriesId)),
            }
          : {})}
      >
        <Hatch />
      </BarChart>
    </figure>
  );
}

/** Bars with a line over them: what there is, beside what is needed. */
export function BarsAndSteps({
  label,
  places,
  series,
  steps,
  height,
  say,
}: Omit<Props, "pick"> & { steps: Series }) {
  return (
    <figure className="chart" aria-label={label}>
      <ChartContainer
        height={height}
        margin={common.margin}
        skipAnimation
        xAxis={[
          {
            id: "x",
            data: places,
            scaleType: "band",
            categoryGapRatio: 0.2,
            tickLabelStyle: axisText,
            height: 24,
          },
        ]}
        yAxis={[
          {
            min: 0,
            tickMinStep: 1,
            tickLabelStyle: axisText,
            width: 44,
            valueFormatter: (v: number) => say(v),
          },
        ]}
        series={[
          ...series.map((s, i) => ({
            type: "bar" as const,
            id: String(i),
            data: s.values,
            label: s.name,
            color: s.colour,
            stack: "all",
            valueFormatter: (v: number | null) => (v === null ? "" : say(v)),
          })),
          {
            type: "line" as const,
            id: "steps",
            data: steps.values,
            label: steps.name,
            color: steps.colour,
            curve: "step" as const,
            showMark: false,
            valueFormatter: (v: number | null) => (v === null ? "" : say(v)),
          },
        ]}
        sx={common.sx}
      >
        <Hatch />
        <ChartsGrid horizontal />
        <BarPlot skipAnimation />
        <LinePlot skipAnimation />
        <ChartsXAxis axisId="x" />
        <ChartsYAxis />
        <ChartsTooltip trigger="axis" />
      </ChartContainer>
    </figure>
  );
}

/** Lines along the places; where there is no value a line has a gap. */
export function Lines({ label, places, series, height, say, most }: Props) {
  return (
    <figure className="chart" aria-label={label}>
      <LineChart
        {...common}
        height={height}
        xAxis={[{ data: places, scaleType: "point", tickLabelStyle: axisText, height: 24 }]}
        yAxis={[
          {
            min: 0,
            ...(most === undefined ? {} : { max: most }),
            tickLabelStyle: axisText,
            width: 44,
            valueFormatter: (value: number) => say(value),
          },
        ]}
        series={series.map((s, i) => ({
          id: String(i),
          data: s.values,
          label: s.name,
          color: s.colour,
          curve: "linear",
          showMark: places.length < 40,
          connectNulls: false,
          valueFormatter: (value: number | null) => (value === null ? "" : say(value)),
        }))}
      />
    </figure>
  );
}

/** What the colours of a chart stand for. */
export function Legend({ series }: { series: Pick<Series, "name" | "colour">[] }) {
  return (
    <ul className="legend">
      {series.map((s) => (
        <li key={s.name}>
          <i
            className={s.colour === hatch ? "hatched" : ""}
            style={s.colour === hatch ? {} : { background: s.colour }}
          />
          {s.name}
        </li>
      ))}
    </ul>
  );
}
