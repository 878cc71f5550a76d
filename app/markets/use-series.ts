import { useEffect, useState } from "react";
import type { DatedSeries } from "#core/bars";

export type SeriesByName = Record<string, DatedSeries>;

/** Extra series of a market, loaded where a rule asks for one; null until they are there. */
export function useSeries(symbol: string | null, wanted: boolean): SeriesByName | null {
  const [held, setHeld] = useState<{ symbol: string; series: SeriesByName } | null>(null);
  const load = wanted && symbol !== null && held?.symbol !== symbol;
  useEffect(() => {
    if (!load || symbol === null) return;
    const stop = new AbortController();
    fetch(`/markets/${symbol}/series.json`, { signal: stop.signal })
      .then(async (response) => setHeld({ symbol, series: response.ok ? ((await response.json()) as SeriesByName) : {} }))
      .catch((error: Error) => {
        // a rule that asks for a series which could not be loaded is told so by its problem
        if (error.name !== "AbortError") setHeld({ symbol, series: {} });
      });
    return () => stop.abort();
  }, [load, symbol]);
  return held?.symbol === symbol ? held.series : null;
}

/** Whether a text of rules asks for extra series at all. */
export const asksForSeries = (text: string): boolean => /\bseries\s*\(/.test(text);
