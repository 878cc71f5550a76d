import type { ChartConfiguration } from "chart.js";
import { useCallback, useMemo } from "react";
import { firstAtOrAfter } from "#core/bars";
import type { LoadedBars } from "~/markets/use-bars";
import { dateText, decimal } from "~/design/format";
import { Chart, Key } from "./chart";
import { faded, type Colours } from "./colours";
import { thin } from "./thin";
import { timeAxis } from "./time-axis";

const STYLES: readonly { colour: keyof Colours & string; dash: number[] }[] = [
  { colour: "ink", dash: [] },
  { colour: "plum", dash: [5, 3] },
  { colour: "ochre", dash: [2, 2] },
  { colour: "moss", dash: [7, 3, 2, 3] },
  { colour: "slate", dash: [1, 3] },
];

/** Closes of several markets, each rebased to 100 at the first time that all of them have. */
export function CompareChart({
  markets,
  from,
  height = 420,
}: {
  markets: readonly { symbol: string; held: LoadedBars }[];
  from: number | null;
  height?: number;
}) {
  const lines = useMemo(() => {
    const start = Math.max(from ?? -Infinity, ...markets.map(({ held }) => held.bars.time[0]));
    return markets.map(({ symbol, held: { bars } }, i) => {
      const first = firstAtOrAfter(bars.time, start);
      const base = bars.close[first];
      return {
        symbol,
        style: STYLES[i % STYLES.length],
        time: bars.time.subarray(first),
        value: bars.close.subarray(first).map((close) => (100 * close) / base),
      };
    });
  }, [markets, from]);
  const config = useCallback(
    (colours: Colours): ChartConfiguration => {
      const min = Math.min(...lines.map((line) => line.time[0]));
      const max = Math.max(...lines.map((line) => line.time[line.time.length - 1]));
      return {
        type: "line",
        data: {
          datasets: lines.map((line) => ({
            type: "line",
            label: line.symbol,
            data: thin(line.time, line.value),
            borderColor: colours[line.style.colour],
            borderDash: line.style.dash,
            borderWidth: 1.5,
            pointRadius: 0,
          })),
        },
        options: {
          parsing: false,
          normalized: true,
          responsive: true,
          maintainAspectRatio: false,
          interaction: { mode: "nearest", axis: "x", intersect: false },
          scales: {
            x: timeAxis(colours, min, max),
            y: {
              type: "linear",
              position: "right",
              grid: { color: faded(colours.edge, 0.6) },
              border: { display: false },
              ticks: { color: colours.inkSoft, font: { family: '"JetBrains Mono Variable", monospace', size: 11 }, maxTicksLimit: 7 },
            },
          } as never,
          plugins: { legend: { display: false }, tooltip: { enabled: true } },
        },
      } as ChartConfiguration;
    },
    [lines],
  );
  const table = useCallback(() => {
    const times = [...new Set(lines.flatMap((line) => Array.from(line.time)))].sort((a, b) => a - b).slice(-2000);
    return {
      columns: ["date", ...lines.map((line) => line.symbol)],
      rows: times.map((time) => [
        dateText(time),
        ...lines.map((line) => {
          const row = firstAtOrAfter(line.time, time);
          return line.time[row] === time ? decimal(line.value[row], 2) : "–";
        }),
      ]),
    };
  }, [lines]);
  return (
    <Chart
      label={`${lines.map((line) => line.symbol).join(", ")} rebased to 100`}
      config={config}
      height={height}
      table={table}
      fileName={lines.map((line) => line.symbol).join("-")}
      legend={lines.map((line) => (
        <Key key={line.symbol} colour={line.style.colour} dashed={line.style.dash.length > 0}>
          {line.symbol}
        </Key>
      ))}
    />
  );
}
