import { join, resolve } from "node:path";
import pino from "pino";
import { readSettings } from "#core/documents";
import { settingsMarket } from "#server/markets";
import { openServices } from "#server/services";
import { demoBars, DEMO_MARKETS } from "./markets";
import { DEMO_STRATEGIES } from "./strategies";

/**
 * Fills an empty data folder with the Saltmarch scenario: markets, three strategies with a stored run and a probe each, one
 * portfolio. A folder that holds anything already is left as it is.
 */
const root = resolve(import.meta.dirname, "../..");
const folder = resolve(process.env.CANYON_DATA ?? join(root, "data"));
const nobody = { width: 1, run: () => Promise.reject(new Error("seeding runs no jobs")), close: () => Promise.resolve() };
const services = await openServices(folder, join(root, "server/db/migrations"), nobody, pino({ level: "silent" }));
const say = (text: string) => process.stderr.write(`  ${text}\n`);

const [held] = (await services.db.$client.execute("SELECT (SELECT COUNT(*) FROM markets) + (SELECT COUNT(*) FROM strategies) AS n")).rows;
if (Number(held.n) === 0) {
  for (const market of DEMO_MARKETS) {
    const bars = demoBars(market);
    await services.markets.add(
      {
        symbol: market.spec.symbol,
        name: market.name,
        kind: market.kind,
        currency: "SKR",
        tick: market.spec.tick,
        pointValue: market.spec.pointValue,
        source: market.source,
        session: market.spec.session,
        margin: market.spec.margin,
        costs: { perOrder: 0, percent: 0, minimum: 0, financingLongPercent: 0, financingShortPercent: 0, ...market.costs },
      },
      bars,
    );
    say(`${market.spec.symbol}: ${bars.length.toLocaleString("en")} daily bars`);
  }
  const members = [];
  for (const { market: symbol, strategy } of DEMO_STRATEGIES) {
    const market = (await services.markets.bySymbol(symbol))!;
    const settings = readSettings({
      format: "canyon.settings/1",
      markets: [settingsMarket(market)],
      capital: 250_000,
      currency: market.currency,
      costs: market.costs,
      benchmark: symbol,
    }).value!;
    const version = await services.strategies.create(strategy, "", settings);
    await services.runs.save(version, settings);
    const probe = await services.probes.create(
      version,
      "outOfSample",
      { split: "2017-12-29", criteria: { profitFactor: 1.2, trades: 15, keptPercent: 40 } },
      settings,
    );
    await services.probes.run(probe);
    const { state } = (await services.probes.get(probe))!;
    await services.strategies.setStatus(version.strategyId, state === "passed" ? "candidate" : "draft");
    say(`${strategy.name}: saved, run, probed out of sample (${state})`);
    if (symbol !== "PEAT")
      members.push({ versionId: version.id, name: strategy.name!, markets: [symbol], weight: symbol === "FERRY" ? 0.6 : 0.4 });
  }
  const [ferry, kelp] = [(await services.markets.bySymbol("FERRY"))!, (await services.markets.bySymbol("KELP"))!];
  await services.portfolios.create("Harbour pair", {
    members,
    settings: {
      format: "canyon.settings/1",
      markets: [settingsMarket(ferry), settingsMarket(kelp)],
      capital: 1_000_000,
      currency: "SKR",
      costs: ferry.costs,
      benchmark: "FERRY",
    },
  });
  say("Harbour pair: a portfolio of two");
}
await services.close();
