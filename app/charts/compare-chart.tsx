import { useMemo } from "react";
import { firstAtOrAfter } from "#core/bars";
import type { LoadedBars } from "~/markets/use-bars";
import { LinesChart, type Line } from "./lines-chart";

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
    return markets.map(({ symbol, held: { bars } }): Line => {
      const first = firstAtOrAfter(bars.time, start);
      const base = bars.close[first];
      return { name: symbol, time: bars.time.subarray(first), value: bars.close.subarray(first).map((close) => (100 * close) / base) };
    });
  }, [markets, from]);
  const symbols = lines.map((line) => line.name);
  return <LinesChart label={`${symbols.join(", ")} rebased to 100`} lines={lines} height={height} fileName={symbols.join("-")} />;
}
