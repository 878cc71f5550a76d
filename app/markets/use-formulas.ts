import { useEffect, useState } from "react";
import type { Session } from "#core/bars";
import { formulaColumn, type FormulaColumn } from "./use-bars";
import type { SeriesByName } from "./use-series";

/** Formulas' columns on bars by their hash, computed beside the page's thread; null while they are not there. `ready`: whether all they need is. */
export function useFormulas(
  market: { session: Session | null; series: SeriesByName },
  hash: string | null,
  timeframe: string,
  rules: readonly string[],
  ready = true,
): (FormulaColumn | null)[] {
  const [held, setHeld] = useState<{ key: string; columns: FormulaColumn[] }>({ key: "", columns: [] });
  const key = JSON.stringify([ready ? hash : null, timeframe, rules, market.session, market.series]);
  useEffect(() => {
    const [wantedHash, wantedTimeframe, wantedRules, session, series] = JSON.parse(key) as [
      string | null,
      string,
      string[],
      Session | null,
      SeriesByName,
    ];
    if (wantedHash === null) return;
    let wanted = true;
    void Promise.all(wantedRules.map((rule) => formulaColumn(wantedHash, wantedTimeframe, rule, { session, series }))).then((columns) => {
      if (wanted) setHeld({ key, columns });
    });
    return () => {
      wanted = false;
    };
  }, [key]);
  return rules.map((_, i) => (held.key === key ? held.columns[i] : null));
}
