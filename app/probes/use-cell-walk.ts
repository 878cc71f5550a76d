import { useCallback, useEffect } from "react";
import { useFetcher } from "react-router";
import type { ProbeView } from "#server/probe-views";
import { useAddress } from "~/design/use-address";

/**
 * Opens the walk-forward of a map's cell: a probe of its own, with the map's search and what the map asks of a cell as its
 * criteria, run at once and shown.
 */
export function useCellWalk(versionId: number, map: ProbeView | undefined): (windows: number, outShare: number) => void {
  const fetcher = useFetcher<{ made?: number }>();
  const { set } = useAddress();
  const made = fetcher.data?.made;
  useEffect(() => {
    if (made !== undefined) set("probe", String(made), ["new"]);
  }, [made, set]);
  const { submit } = fetcher;
  return useCallback(
    (windows, outShare) => {
      if (map === undefined) return;
      const { search, anchored, choose, efficiency, profitable, largestShare } = map.input.probe;
      const input = { search, anchored, choose, windows, outShare, criteria: { efficiency, profitable, largestShare } };
      void submit(
        {
          intent: "create",
          start: "yes",
          version: String(versionId),
          kind: "walkForward",
          market: map.input.settings.markets[0].symbol,
          input: JSON.stringify(input),
        },
        { method: "post" },
      );
    },
    [map, versionId, submit],
  );
}
