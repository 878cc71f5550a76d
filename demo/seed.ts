import { join, resolve } from "node:path";
import pino from "pino";
import { NO_COSTS, readSettings, type Strategy } from "#core/documents";
import { poolExecutor } from "#server/jobs/pool";
import { settingsMarket } from "#server/markets";
import { READY_MADE_STRATEGIES } from "#core/library";
import type { PortfolioMember } from "#server/portfolio-document";
import { openServices, type Services } from "#server/services";
import type { VersionView } from "#server/strategies";
import { secondSource } from "./breakwater";
import { saltmarchDates, saltmarchSession } from "./calendar";
import { boardMoves, DEMO_MARKETS, demoSources } from "./markets";
import { backlogOf, DEMO_SHARES, shareBars } from "./shares";
import { DEMO_STRATEGIES } from "./strategies";

/**
 * Fills an empty data folder with the Saltmarch scenario: markets with two sources, shares, lists, three strategies with a
 * stored run and a probe each, one portfolio. A folder that holds anything already is left as it is.
 */
const root = resolve(import.meta.dirname, "../..");
const folder = resolve(process.env.CANYON_DATA ?? join(root, "data"));
const executor = poolExecutor(join(import.meta.dirname, "trials-worker.js"), folder);
const services = await openServices(folder, join(root, "server/db/migrations"), executor, pino({ level: "silent" }));
const CHANNEL_SEARCH = {
  vary: [
    { name: "entry", from: 20, to: 80, step: 10 },
    { name: "exit", from: 10, to: 40, step: 10 },
  ],
  method: { kind: "grid" },
  objective: [{ metric: "profitToDrawdown", want: "more", weight: 1 }],
  limits: [],
};

/** What the demo asks of the version on FERRY beside its first probe; another source is known to be faulty there. */
const FERRY_PROBES: readonly (readonly [kind: string, input: object])[] = [
  ["raisedCosts", { most: 4, at: 1.5, criteria: { edge: 1.5, profitFactor: 1.05 } }],
  ["shuffledTrades", { criteria: { drawdown: 25, ruin: 1 } }],
  ["shakenParameters", { runs: 300, criteria: { share: 80, kept: 50 } }],
  ["otherSources", { criteria: { correlation: 0.95, drift: 25, sole: 20 } }],
  ["otherMarkets", { markets: ["KELP", "WOOL", "BARLEY", "PEAT"], criteria: { held: 2 } }],
  ["walkForwardMap", { search: CHANNEL_SEARCH, windows: [6, 8, 10, 12, 14, 16], outShare: [15, 20, 25, 30], criteria: { depth: 2 } }],
];
/** From the library of ready-made strategies: what the demo's survivors come from. */
const SURVIVORS = [
  { market: "FERRY", name: "Bands with the trend" },
  { market: "TIDE", name: "Spike with a limit order" },
  { market: "BARLEY", name: "Barley in season" },
  { market: "BARLEY", name: "Barley in season, with its average" },
  { market: "SALT40", name: "Calm by bond against index" },
] as const;

/** The last year of every market is held out. */
const SEALED_FROM = "2025-01-01";
const say = (text: string) => process.stderr.write(`  ${text}\n`);

const [held] = (await services.db.$client.execute("SELECT (SELECT COUNT(*) FROM markets) + (SELECT COUNT(*) FROM strategies) AS n")).rows;
if (Number(held.n) === 0) {
  const calendarId = await services.calendars.create("Saltmarch Exchange", saltmarchSession());
  for (const market of DEMO_MARKETS) {
    const { spec } = market;
    const counts: string[] = [];
    let marketId = 0;
    for (const { source, timeframe, bars } of demoSources(market)) {
      const note = "the demo's generator";
      if (marketId === 0)
        marketId = (
          await services.markets.add(
            {
              ...spec,
              name: market.name,
              kind: market.kind,
              currency: "SKR",
              source,
              calendarId: spec.session === null ? null : calendarId,
              costs: { ...NO_COSTS, ...market.costs },
            },
            bars,
            timeframe,
            { served: true },
          )
        ).id;
      else await services.sources.add(marketId, source, timeframe, bars, { served: true, note });
      counts.push(`${bars.length.toLocaleString("en")} of ${timeframe}`);
    }
    say(`${spec.symbol}: bars ${counts.join(", ")}`);
  }
  const moves = boardMoves();
  const dates = saltmarchDates();
  for (const [index, share] of DEMO_SHARES.entries()) {
    const bars = shareBars(index, dates, moves);
    const market = await services.markets.add(
      {
        symbol: share.symbol,
        name: share.name,
        kind: "share",
        currency: "SKR",
        sector: share.sector,
        tick: 0.01,
        pointValue: 1,
        source: "Lighthouse",
        calendarId,
        costs: { ...NO_COSTS, percent: 0.05, spreadTicks: 2, slippageTicks: 1 },
      },
      bars,
      "1d",
      { served: true },
    );
    await services.sources.add(market.id, "Breakwater", "1d", secondSource(bars, 0.01, 5000 + index, 0.002), { served: true });
    await services.series.store(share.symbol, "backlog", backlogOf(index, dates), "the demo's generator");
  }
  say(`${DEMO_SHARES.length} shares with two sources and their backlog`);
  for (const market of await services.markets.list()) await services.seals.seal(market, SEALED_FROM);
  say(`sealed from ${SEALED_FROM} on`);
  const symbols = (sector: string) => DEMO_SHARES.filter((share) => share.sector === sector).map((share) => share.symbol);
  const empty = { symbols: [], plus: [], minus: [] };
  const futures = await services.lists.create("Harbour futures", "watch", {
    ...empty,
    symbols: ["FERRY", "KELP", "PEAT", "WOOL", "BARLEY", "GLASS"],
  });
  const nothing = await services.lists.create("No edge planted", "exclude", { ...empty, symbols: ["PEAT", "GLASS"] });
  await services.lists.create("Futures with something in them", "watch", { ...empty, plus: [futures], minus: [nothing] });
  for (const sector of ["Shipping", "Fishing"])
    await services.lists.create(`${sector} shares`, "watch", { ...empty, symbols: symbols(sector) });
  const members: PortfolioMember[] = [];
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
    say(`${strategy.name}: saved, run, probed out of sample (${state})`);
    if (symbol === "FERRY") {
      for (const [kind, input] of FERRY_PROBES) await services.probes.run(await services.probes.create(version, kind, input, settings));
      await services.probes.create(version, "holdOut", { criteria: { profitFactor: 1.1, trades: 2 } }, settings);
      const held = await services.probes.ofVersion(version.id);
      const failed = held.find((one) => one.state === "failed" && one.kind === "otherSources");
      if (failed !== undefined)
        await services.probes.overrule(
          failed.id,
          "Breakwater wrote three weeks of March 2009 ten times too high; without them the two agree.",
          "the demo",
        );
      await services.statusMoves.move(
        version,
        "candidate",
        "It holds on dates that its making never saw, and its numbers may be a little wrong.",
        "the demo",
        held.filter((one) => one.state === "passed").map((one) => one.id),
      );
      say(`${strategy.name}: ${held.map((one) => `${one.name} ${one.state}`).join(", ")}`);
    }
    if (symbol !== "PEAT")
      members.push({ versionId: version.id, name: strategy.name!, markets: [symbol], weight: symbol === "FERRY" ? 0.6 : 0.4 });
  }
  for (const version of await survivors(services)) {
    const { symbol } = version.settings!.markets[0];
    members.push({ versionId: version.id, name: version.strategyName, markets: [symbol], weight: 0 });
  }
  const account = async (symbols: readonly string[]) => {
    const own = await Promise.all(symbols.map(async (symbol) => (await services.markets.bySymbol(symbol))!));
    return {
      format: "canyon.settings/1" as const,
      markets: own.map((market) => settingsMarket(market, "1d")),
      capital: 1_000_000,
      currency: "SKR",
      costs: own[0].costs,
    };
  };
  const pair = members.filter(({ markets }) => ["FERRY", "KELP"].includes(markets[0]) && markets.length === 1).slice(0, 2);
  await services.portfolios.create("Harbour pair", {
    members: pair.map((member, i) => ({ ...member, weight: i === 0 ? 0.6 : 0.4 })),
    settings: { ...(await account(["FERRY", "KELP"])), benchmark: "FERRY" },
  });
  const four = ["Ferry channel", "Spike with a limit order", "Barley in season, with its average", "Calm by bond against index"].map(
    (name) => members.find((member) => member.name === name)!,
  );
  await services.portfolios.create(
    "Harbour four",
    {
      members: four,
      settings: {
        ...(await account(["FERRY", "TIDE", "BARLEY", "SALT40", "SHORE10"])),
        capital: 3_000_000,
        leverage: 2,
        benchmark: "SALT40",
      },
      weighting: { mode: "maximumDiversification", from: "2004-01-01", to: "2013-12-31", least: 0.1, most: 0.4 },
    },
    "what the demo planted, as different as it is",
  );
  say("portfolios: Harbour pair, Harbour four");
  const house = await services.runSettings.create(
    "House rules",
    { costs: { of: "market", times: 1.5 }, intrabar: "pessimistic", haltBelowPercent: 50 },
    "what we ask of every idea",
  );
  await services.runSettings.save(
    house,
    1,
    "House rules",
    { costs: { of: "market", times: 2 }, intrabar: "pessimistic", haltBelowPercent: 50, closeAtEnd: true },
    "fees were raised on the quay",
  );
  await services.runSettings.create("Small account since 2015", { dates: { from: "2015-01-01" }, capital: 60_000, onLackOfMargin: "skip" });
  say("run settings: House rules, Small account since 2015");
}
await services.close();

/** Strategies from the library that hold on later dates and under higher costs, each run and probed; those that pass are survivors. */
async function survivors(to: Services): Promise<VersionView[]> {
  const out: VersionView[] = [];
  for (const { market: symbol, name } of SURVIVORS) {
    const { strategy: written, others = [] } = READY_MADE_STRATEGIES.find((one) => one.strategy.name === name)!;
    // a fixed number of units comes to less than one under a weight
    const strategy: Strategy = written.sizing.mode === "units" ? { ...written, sizing: { mode: "riskPercent", value: 1 } } : written;
    const own = await Promise.all([symbol, ...others].map(async (one) => (await to.markets.bySymbol(one))!));
    const settings = readSettings({
      format: "canyon.settings/1",
      markets: own.map((market) => settingsMarket(market, strategy.timeframe)),
      capital: 1_000_000,
      currency: "SKR",
      costs: own[0].costs,
      benchmark: symbol,
    }).value!;
    const version = await to.strategies.create(strategy, "", settings);
    await to.runs.save(version, settings);
    const layers: number[] = [];
    for (const [kind, input] of [
      ["outOfSample", { split: "2015-12-30", criteria: { profitFactor: 1.05, trades: 10 } }],
      ["raisedCosts", { most: 4, at: 1.5, criteria: { edge: 1.5, profitFactor: 1.02 } }],
    ] as const) {
      const probe = await to.probes.create(version, kind, input, settings);
      await to.probes.run(probe);
      layers.push(probe);
    }
    const states = (await to.probes.ofVersion(version.id)).map(({ name: layer, state }) => `${layer} ${state}`);
    const passed = (await to.probes.ofVersion(version.id)).every(({ state }) => state === "passed");
    if (passed)
      await to.statusMoves.move(version, "survivor", "It holds on later dates, and costs leave enough of it.", "the demo", layers);
    say(`${strategy.name}: ${states.join(", ")}${passed ? ", survivor" : ""}`);
    out.push((await to.strategies.version(version.id))!);
  }
  return out;
}
