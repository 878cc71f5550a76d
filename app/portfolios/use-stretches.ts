import { useMemo } from "react";
import type { PortfolioHead } from "#server/portfolio-report";
import type { Stretch } from "~/charts/equity-chart";

const DAY = 86_400_000;

/** The stretches of estimating and judging, tinted behind every curve of a portfolio; `named`: with their names. */
export function useStretches({ stretches }: PortfolioHead, named = false): readonly Stretch[] {
  return useMemo(
    () =>
      stretches === null
        ? []
        : [
            {
              name: named ? "weights estimated" : "",
              from: stretches.estimated[0] * DAY,
              to: stretches.estimated[1] * DAY,
              tint: "in-sample",
            },
            { name: named ? "judged" : "", from: stretches.judged[0] * DAY, to: stretches.judged[1] * DAY, tint: "judged" },
          ],
    [stretches, named],
  );
}
