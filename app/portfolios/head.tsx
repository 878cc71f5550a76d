import { Link } from "react-router";
import type { PortfolioHead } from "#server/portfolio-report";
import { Button } from "~/design/button";
import { decimal } from "~/design/format";
import { PageHead } from "~/design/panel";
import { PartsNav } from "~/design/parts-nav";

const PARTS: readonly [to: string, name: string][] = [
  ["", "Report"],
  ["/together", "Together"],
  ["/members", "Members"],
  ["/along", "Along the way"],
  ["/trades", "Trades"],
  ["/what-if", "What if"],
  ["/luck", "Costs and luck"],
  ["/states", "States"],
];

/** A portfolio's head on all its pages: what it is, and the way to what is asked of it. */
export function Head({ head }: { head: PortfolioHead }) {
  return (
    <>
      <PageHead
        title={head.name}
        about={
          <>
            {head.members} members on one account of {decimal(head.capital, 0)} {head.currency}
            {head.leverage === 1 ? "" : ` · leverage ${decimal(head.leverage, 1)}`} · {head.weighting} · {head.dates[0]} to {head.dates[1]}{" "}
            · fingerprint{" "}
            <span className="figure-text" title={head.fingerprint}>
              {head.fingerprint.slice(0, 8)}
            </span>
          </>
        }
        actions={
          <span className="flex gap-2">
            <Button asChild>
              <Link to={`/portfolios/${head.id}/edit`}>Change</Link>
            </Button>
            <Button asChild look="primary">
              <Link to={`/orders?for=/portfolios/${head.id}`}>Order sheet</Link>
            </Button>
          </span>
        }
      />
      <PartsNav label="Parts of the portfolio" base={`/portfolios/${head.id}`} parts={PARTS} />
    </>
  );
}
