import { useEffect, useState } from "react";
import type { Session } from "#core/bars";

export interface Derived {
  hash: string;
  /** intraday bars outside the session that were left out */
  outside: number;
}

/** Which bars there are in a timeframe, made by the server where they are not yet: the hash to load. */
export function useDerived(
  given: { bars: string; timeframe: string; session: Session | null } | null,
  timeframe: string,
): { bars: Derived | null; problem: string | null } {
  const [state, setState] = useState<{ key: string; bars: Derived | null; problem: string | null }>({ key: "", bars: null, problem: null });
  const own = given !== null && given.timeframe === timeframe && timeframe === "1d";
  const key =
    given === null || own
      ? ""
      : `/bars/${given.bars}/to/${encodeURIComponent(timeframe)}?${new URLSearchParams({ from: given.timeframe, session: JSON.stringify(given.session) }).toString()}`;
  useEffect(() => {
    if (key === "") return;
    const stop = new AbortController();
    fetch(key, { signal: stop.signal })
      .then(async (response) => {
        const body = (await response.json()) as Derived & { problems?: { message: string }[] };
        if (response.ok) setState({ key, bars: body, problem: null });
        else setState({ key, bars: null, problem: body.problems?.[0]?.message ?? `the server answered ${response.status}` });
      })
      .catch((error: Error) => {
        if (error.name !== "AbortError") setState({ key, bars: null, problem: error.message });
      });
    return () => stop.abort();
  }, [key]);
  if (given === null) return { bars: null, problem: "no source of this market can show this timeframe" };
  if (own) return { bars: { hash: given.bars, outside: 0 }, problem: null };
  return state.key === key ? state : { bars: null, problem: null };
}
