import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Layer } from "#server/layers";
import type { RunSummary } from "#server/runs";
import { Button } from "~/design/button";
import { decimal } from "~/design/format";
import { PageHead } from "~/design/panel";
import { PartsNav } from "~/design/parts-nav";
import { Strata } from "~/design/strata";

interface Props {
  summary: RunSummary;
  layers: readonly Layer[];
  /** first and last date of the run */
  dates: readonly [from: string, to: string];
  actions?: ReactNode;
}

const PARTS: readonly [to: string, name: string][] = [
  ["", "Report"],
  ["/trades", "Trades"],
  ["/parts", "What made the money"],
  ["/along", "Along the way"],
  ["/against", "Against what"],
  ["/costs", "What it cost"],
  ["/luck", "Is it luck?"],
];

/** A run's head on all its pages: what it is, and the way to what is asked of it. */
export function RunHead({ summary, layers, dates, actions }: Props) {
  const { settings } = summary;
  return (
    <>
      <PageHead
        mark={<Strata layers={layers} width={20} height={52} />}
        title={`${summary.strategyName}, run ${summary.number}`}
        about={
          <>
            version {summary.versionNumber} · {settings.markets.map((m) => m.symbol).join(", ")} · {dates[0]} to {dates[1]} ·{" "}
            {decimal(settings.capital, 0)} {settings.currency ?? ""} · fingerprint{" "}
            <span className="figure-text" title={summary.fingerprint}>
              {summary.fingerprint.slice(0, 8)}
            </span>
          </>
        }
        actions={
          <>
            {actions}
            <Button asChild look="primary">
              <Link to={`/strategies/${summary.strategyId}?v=${summary.versionNumber}`}>To the rules</Link>
            </Button>
          </>
        }
      />
      <PartsNav label="Parts of the run" base={`/runs/${summary.id}`} parts={PARTS} />
    </>
  );
}
