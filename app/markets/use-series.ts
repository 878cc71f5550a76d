import { useEffect, useState } from "react";
import type { DatedSeries } from "#core/bars";

export type SeriesByName = Record<string, DatedSeries>;

/** Extra series of some markets by symbol, loaded where a rule asks for one; null until all are there. */
export function useSeriesOf(symbols: readonly string[], wanted: boolean): Readonly<Record<string, SeriesByName>> | null {
  const [held, setHeld] = useState<Record<string, SeriesByName>>({});
  const missing = wanted ? symbols.filter((symbol) => held[symbol] === undefined).join() : "";
  useEffect(() => {
    if (missing === "") return;
    const stop = new AbortController();
    void Promise.all(
      missing.split(",").map(async (symbol): Promise<[string, SeriesByName]> => {
        try {
          const response = await fetch(`/markets/${symbol}/series.json`, { signal: stop.signal });
          return [symbol, response.ok ? ((await response.json()) as SeriesByName) : {}];
        } catch {
          // a rule that asks for a series which could not be loaded is told so by its problem
          return [symbol, {}];
        }
      }),
    ).then((loaded) => {
      if (!stop.signal.aborted) setHeld((before) => ({ ...before, ...Object.fromEntries(loaded) }));
    });
    return () => stop.abort();
  }, [missing]);
  return missing === "" ? held : null;
}

/** Extra series of one market, loaded where a rule asks for one; null until they are there. */
export function useSeries(symbol: string | null, wanted: boolean): SeriesByName | null {
  const all = useSeriesOf(symbol === null ? [] : [symbol], wanted);
  return symbol === null || !wanted || all === null ? null : (all[symbol] ?? null);
}

/** Whether a text of rules asks for extra series at all. */
export const asksForSeries = (text: string): boolean => /\bseries\s*\(/.test(text);
