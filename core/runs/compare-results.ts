import type { RunResult } from "#core/documents";

/** What differs between two results of what should be the same run. */
export interface ResultDifference {
  same: boolean;
  engines: [before: string, now: string];
  trades: [before: number, now: number];
  /** the first trade that is not the same, counted from 1 */
  firstTrade: number | null;
  finalEquity: [before: number, now: number];
  /** figures of all trades together that changed */
  metrics: { key: string; before: number | null; now: number | null }[];
}

/** Compares a stored result with the one computed now, from the whole down to the first trade and the figures that changed. */
export function compareResults(before: RunResult, now: RunResult): ResultDifference {
  const text = (value: unknown) => JSON.stringify(value);
  const bare = ({ engine: _engine, fingerprint: _fingerprint, ...rest }: RunResult) => text(rest);
  const length = Math.max(before.trades.length, now.trades.length);
  let firstTrade: number | null = null;
  for (let i = 0; i < length && firstTrade === null; i++) if (text(before.trades[i]) !== text(now.trades[i])) firstTrade = i + 1;
  const keys = [...new Set([...Object.keys(before.metrics.all), ...Object.keys(now.metrics.all)])];
  return {
    same: bare(before) === bare(now),
    engines: [before.engine, now.engine],
    trades: [before.trades.length, now.trades.length],
    firstTrade,
    finalEquity: [before.equity.equity.at(-1) ?? NaN, now.equity.equity.at(-1) ?? NaN],
    metrics: keys
      .map((key) => ({ key, before: before.metrics.all[key] ?? null, now: now.metrics.all[key] ?? null }))
      .filter((one) => one.before !== one.now),
  };
}
