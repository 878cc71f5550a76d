import type { ReactNode } from "react";
import { NavLink } from "react-router";
import type { MarketView } from "#server/markets";
import { PageHead } from "~/design/panel";

/** A market's head on all its pages: what it is, and the way to its parts. */
export function MarketHead({ market, actions }: { market: MarketView; actions?: ReactNode }) {
  const tabs: [to: string, name: string, count: number | null][] = [
    ["", "Prices", null],
    ["/sources", "Sources", market.sources.length],
    ["/quality", "Quality", null],
    ["/series", "Extra series", null],
    ["/specification", "Specification", null],
  ];
  return (
    <>
      <PageHead title={market.symbol} about={[market.name, market.kind, market.sector].filter(Boolean).join(" · ")} actions={actions} />
      <nav aria-label="Parts of the market" className="mb-3 flex gap-5 border-b border-edge">
        {tabs.map(([to, label, count]) => (
          <NavLink
            key={label}
            end
            to={`/markets/${market.symbol}${to}`}
            className={({ isActive }) =>
              `-mb-px border-b-2 pb-1.5 no-underline ${isActive ? "border-ink font-semibold" : "border-transparent text-ink-soft hover:text-ink"}`
            }
          >
            {label} {count !== null && <span className="text-ink-soft">{count}</span>}
          </NavLink>
        ))}
      </nav>
    </>
  );
}
