import { Link } from "react-router";
import { PriceChart } from "~/charts/price-chart";
import { Button } from "~/design/button";
import { dateText, decimal, price } from "~/design/format";
import { PageHead, Panel, Problems } from "~/design/panel";
import { useBars } from "~/markets/use-bars";
import type { Route } from "./+types/market";

export const meta: Route.MetaFunction = ({ params }) => [{ title: `${params.symbol} · Canyon` }];
export const handle = {
  keys: [
    { keys: "← →", what: "pan the chart that has the focus" },
    { keys: "+ −", what: "zoom in and out" },
    { keys: "Home End", what: "to the first and the last bars" },
  ],
};

export async function loader({ context, params }: Route.LoaderArgs) {
  const market = await context.services.markets.bySymbol(params.symbol);
  if (market === null) throw new Response(`There is no market ${params.symbol}.`, { status: 404 });
  return { market };
}

export default function MarketPage({ loaderData: { market } }: Route.ComponentProps) {
  const { bars, error } = useBars(market.barsHash);
  const { spec } = market;
  const margin =
    spec.margin.mode === "fraction"
      ? `${decimal(spec.margin.value * 100, 0)} % of notional`
      : `${decimal(spec.margin.value, 0)} ${market.currency} per unit`;
  const facts: [string, string][] = [
    ["tick", `${spec.tick}, worth ${decimal(spec.tick * spec.pointValue, 2)} ${market.currency}`],
    ["point value", `${decimal(spec.pointValue, 2)} ${market.currency}`],
    ["margin", margin],
    ["session", spec.session ? `${spec.session.open}–${spec.session.close}, ${spec.session.zone}` : "round the clock, UTC"],
    ["source", `${market.source}, ${market.timeframe}`],
    ["bars", `${decimal(market.count, 0)} from ${dateText(market.firstTime)} to ${dateText(market.lastTime)}`],
    ["last close", price(market.lastClose, spec.tick)],
    [
      "costs",
      `spread ${market.costs.spreadTicks}, slippage ${market.costs.slippageTicks} ticks; ${market.costs.perUnit} ${market.currency} per unit and fill`,
    ],
  ];
  return (
    <>
      <PageHead
        title={market.symbol}
        about={`${market.name}, ${market.kind} · ${market.source}, ${market.timeframe}`}
        actions={
          <Button asChild look="primary">
            <Link to={`/strategies/new?market=${market.symbol}`}>New strategy on it</Link>
          </Button>
        }
      />
      <Panel title="Prices" note="wheel or + − to zoom, drag or arrow keys to pan">
        {error ? (
          <Problems problems={[{ path: "", message: error }]} title="The chart can't be drawn" />
        ) : bars === null ? (
          <p className="py-40 text-center text-ink-soft">Loading bars …</p>
        ) : (
          <PriceChart symbol={market.symbol} bars={bars} tick={spec.tick} height={460} />
        )}
      </Panel>
      <Panel title="Specification" className="mt-3">
        <dl className="grid grid-cols-[repeat(2,auto_1fr)] gap-x-4 gap-y-1">
          {facts.map(([name, value]) => (
            <div key={name} className="contents">
              <dt className="text-ink-soft">{name}</dt>
              <dd>{value}</dd>
            </div>
          ))}
        </dl>
      </Panel>
    </>
  );
}
