import { useState } from "react";
import { data, Link, useFetcher } from "react-router";
import { formatDate } from "#core/bars";
import { settingsMarket } from "#server/markets";
import { isRefused, Refused } from "#server/problem";
import { strategyPage } from "#server/strategy-page";
import { Button } from "~/design/button";
import { MarketSelect } from "~/markets/market-select";
import { dateText } from "~/design/format";
import { Empty, Panel, Problems } from "~/design/panel";
import { CriteriaFields, criteriaOf, type CriteriaState } from "~/probes/criteria";
import { ProbeCard } from "~/probes/probe-card";
import { StrategyHead } from "~/strategies/head";
import type { Route } from "./+types/strategy-evidence";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: `Evidence of ${page?.version.strategyName ?? "a strategy"} · Canyon` },
];

export async function loader({ context, params, request }: Route.LoaderArgs) {
  const { services } = context;
  const search = new URL(request.url).searchParams;
  const page = await strategyPage(services, Number(params.id), search.has("v") ? Number(search.get("v")) : null);
  if (page === null) throw new Response("There is no such strategy or version.", { status: 404 });
  const [probes, markets, optimizations] = await Promise.all([
    services.probes.ofVersion(page.version.id),
    services.markets.list(),
    services.optimizations.list(page.version.strategyId),
  ]);
  // what an optimization was allowed to see is the natural in-sample stretch
  const seen = optimizations[0]?.settings.to ?? null;
  return { ...page, probes, markets, seen, split: search.get("split") };
}

export async function action({ context, params, request }: Route.ActionArgs) {
  const { services } = context;
  const form = await request.formData();
  try {
    const id = Number(form.get("probe"));
    switch (form.get("intent")) {
      case "run":
        await services.probes.run(id);
        break;
      case "change":
        await services.probes.change(id, JSON.parse(String(form.get("input"))));
        break;
      case "remove":
        await services.probes.remove(id);
        break;
      default: {
        const version = await services.strategies.version(Number(form.get("version")));
        const market = await services.markets.bySymbol(String(form.get("market")));
        if (version === null || version.strategyId !== Number(params.id))
          throw new Refused([{ path: "version", message: "this version does not exist any more" }]);
        if (market === null) throw new Refused([{ path: "market", message: "choose a market" }]);
        const known = version.settings;
        const settings =
          known !== null && known.markets[0].symbol === market.symbol
            ? { ...known, from: null, to: null, markets: [settingsMarket(market, version.strategy.timeframe)] }
            : {
                format: "canyon.settings/1",
                markets: [settingsMarket(market, version.strategy.timeframe)],
                capital: 250_000,
                currency: market.currency,
                costs: market.costs,
                benchmark: market.symbol,
              };
        await services.probes.create(version, "outOfSample", JSON.parse(String(form.get("input"))), settings);
      }
    }
    return { problems: [] };
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems }, { status: error.status });
    throw error;
  }
}

export default function EvidencePage({ loaderData }: Route.ComponentProps) {
  const { version, versions, layers, counts, probes, markets } = loaderData;
  return (
    <>
      <StrategyHead
        id={version.strategyId}
        name={version.strategyName}
        about={`version ${version.number}${version.number < versions.length ? `, an older one of ${versions.length}` : ""} · ${probes.length} ${probes.length === 1 ? "probe" : "probes"}, oldest at the bottom of the strata`}
        layers={layers}
        counts={counts}
      />
      <div className="flex flex-col gap-3">
        {probes.map((probe) => (
          <ProbeCard key={`${probe.id} ${probe.criteriaSetAt}`} probe={probe} />
        ))}
        {markets.length === 0 ? (
          <Empty
            title="No market to probe on"
            action={
              <Link to="/markets/import" className="quiet-link">
                Import bars
              </Link>
            }
          >
            A probe needs bars.
          </Empty>
        ) : (
          <SetUp {...loaderData} first={probes.length === 0} />
        )}
      </div>
    </>
  );
}

function SetUp({ version, markets, seen, split, first }: Route.ComponentProps["loaderData"] & { first: boolean }) {
  const fetcher = useFetcher<{ problems: { path: string; message: string }[] }>();
  const known = version.settings?.markets[0].symbol;
  const [symbol, setSymbol] = useState(markets.some((m) => m.symbol === known) ? known! : markets[0].symbol);
  const market = markets.find((m) => m.symbol === symbol)!;
  const [state, setState] = useState<CriteriaState>({
    split: split ?? seen ?? formatDate(Math.floor((market.firstTime + (market.lastTime - market.firstTime) * 0.7) / 86_400_000)),
    profitFactor: "1.2",
    trades: "20",
    keptPercent: "40",
  });
  const set = () =>
    void fetcher.submit(
      { intent: "create", version: String(version.id), market: symbol, input: JSON.stringify(criteriaOf(state)) },
      { method: "post" },
    );
  return (
    <Panel
      title={first ? "Set up the first probe: out-of-sample" : "Set up another out-of-sample probe"}
      note="Does it still work on data that its making never saw?"
    >
      <div className="grid grid-cols-[minmax(300px,4fr)_7fr] gap-5">
        <div>
          <MarketSelect
            label="Market"
            value={symbol}
            choices={markets.map((m) => ({ value: m.symbol, label: `${m.symbol}, ${dateText(m.firstTime)} to ${dateText(m.lastTime)}` }))}
            onChange={setSymbol}
            className="mb-2"
          />
          <CriteriaFields state={state} onChange={setState} />
          <div className="mt-3">
            <Button look={first ? "primary" : "plain"} onClick={set} disabled={fetcher.state !== "idle"}>
              Write the criteria down
            </Button>
          </div>
          <div className="mt-2 empty:hidden">
            <Problems problems={fetcher.data?.problems ?? []} title="The probe can't be set up" />
          </div>
        </div>
        <p className="max-w-[62ch] text-ink-soft">
          Decide now what would convince you: the criteria are written down before the probe runs, and a result that they were changed after
          is out of date.{" "}
          {seen
            ? `The newest optimization saw bars up to ${seen}; the rest is still unseen by it.`
            : "A usual split leaves the last three tenths unseen."}
        </p>
      </div>
    </Panel>
  );
}
