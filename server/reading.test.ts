import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { Metrics } from "#core/documents";
import { fallsOf, figuresOf, stretchFigures } from "#core/reading";
import { gzipSync } from "node:zlib";
import { against, againstChoices } from "./against";
import { alongView } from "./along";
import { addMarket, csvText, emptyFolder, newMarket, openTest, refusal, runSettings, SWING } from "./testing/services";
import type { Services } from "./services";

let services: Services;
let first: number;
let second: number;
const stored = async (id: number) => (await services.runs.get(id))!;
/** A stored run with its whole document. */
const whole = async (id: number) => {
  const { summary, result } = await stored(id);
  return { summary, result: await result.document() };
};

beforeAll(async () => {
  services = await openTest(emptyFolder());
  const market = await addMarket(services, newMarket("ELVER"), csvText(600));
  const version = await services.strategies.create(SWING, "", null);
  first = await services.runs.save(version, runSettings(market));
  second = await services.runs.save(version, runSettings(market, { capital: 50_000 }));
});
afterAll(() => services.close());

describe("figures of parts", () => {
  it("of all trades and of each side are those that the metrics gave", async () => {
    const { result, summary } = await whole(first);
    const { capital } = summary.settings;
    // the length of the run as the metrics have it
    const days = (result.metrics.all.trades! / result.metrics.all.tradesPerYear!) * 365.25;
    const near = (own: Metrics, other: Metrics) => {
      for (const [key, value] of Object.entries(own))
        if (value === null) expect([key, other[key]]).toEqual([key, null]);
        else expect(Math.abs(other[key]! - value), key).toBeLessThanOrEqual(1e-9 * Math.max(1, Math.abs(value)));
    };
    near(figuresOf(result.trades, capital, days), result.metrics.all);
    for (const side of ["long", "short"] as const)
      near(
        figuresOf(
          result.trades.filter((trade) => trade.side === side),
          capital,
          days,
        ),
        result.metrics[side],
      );
    expect(result.metrics.all.trades).toBeGreaterThan(3);
  });

  it("falls and the whole as a stretch agree with the metrics, too", async () => {
    const { result, summary } = await whole(first);
    const { capital } = summary.settings;
    const { all } = result.metrics;
    const times = result.equity.time.map((text) => Date.parse(text));
    const falls = fallsOf(times, result.equity.equity, capital);
    expect(Math.max(...falls.map((fall) => fall.percent))).toBeCloseTo(all.maxDrawdownPercent!, 9);
    expect(Math.max(...falls.map((fall) => fall.money))).toBeCloseTo(all.maxDrawdown!, 6);
    expect(Math.max(...falls.map((fall) => fall.days))).toBeCloseTo(all.longestDrawdownDays!, 9);
    const { inside } = stretchFigures(times, result.equity.equity, result.trades, -Infinity, Infinity, capital)!;
    for (const key of ["netPercent", "cagr", "maxDrawdownPercent", "trades", "winRate", "averageTrade", "profitFactor"])
      expect([key, inside[key]]).toEqual([key, all[key] === null ? null : expect.closeTo(all[key]!, 8)]);
  });
});

describe("what is asked of a stored run", () => {
  it("is it luck: the same answers each time, with the ledger's count", async () => {
    const run = await stored(first);
    const { luck, ledger } = await services.reading.luck(run);
    expect(ledger.total).toBe(2);
    expect(luck.answers.length).toBe(4);
    expect(luck.resampled!.samples).toBe(2000);
    expect(await services.reading.luck(run)).toEqual({ luck, ledger });
    // two stored runs have two Sharpe ratios
    expect(luck.bestOfNoEdge).not.toBeNull();
  });

  it("what would it bear: the run's own net at its own costs, and nothing at the level that was found", async () => {
    const run = await stored(first);
    const { edge, free } = await services.reading.costs(run);
    const { capital } = run.summary.settings;
    const own = edge.looked.find((one) => one.times === 1);
    if (own !== undefined) expect(own.net).toBeCloseTo(run.result.head.metrics.all.netProfit!, 6);
    expect(free.length).toBe((await run.result.curves()).equity.length);
    expect(free.at(-1)! - capital).toBe(edge.looked[0].net);
    expect(["found", "beyond", "nothing without costs"]).toContain(edge.why);
    if (edge.times !== null)
      expect(
        Math.abs(
          edge.looked.reduce((near, one) => (Math.abs(one.times - edge.times!) < Math.abs(near.times - edge.times!) ? one : near)).net,
        ),
      ).toBeLessThan(Math.abs(edge.looked[0].net));
  });

  it("what tells it from others: settings in words, trades of its own", async () => {
    const [one, other] = await services.reading.compare([first, second]);
    expect([one.rules, one.settings, one.trades]).toEqual([[], [], null]);
    expect(other.rules).toEqual([]);
    expect(other.settings.map(({ what }) => what)).toEqual(["capital"]);
    expect(other.trades!.both).toBeGreaterThan(0);
    expect(other.line.value.at(-1)).toBe((await whole(second)).result.equity.equity.at(-1));
  });

  it("a note, tags and a pin stand beside it and change nothing of it", async () => {
    const before = (await whole(first)).result;
    await services.runs.mark(first, { note: " worth a look ", tags: ["quay", " slow ", "quay", ""] });
    await services.runs.mark(first, { pinned: true });
    const { summary, result } = await whole(first);
    expect([summary.note, summary.tags, summary.pinned]).toEqual(["worth a look", ["quay", "slow"], true]);
    expect(result).toEqual(before);
    expect((await services.runs.all()).map(({ id, pinned }) => [id, pinned])).toEqual([
      [second, false],
      [first, true],
    ]);
    expect((await refusal(services.runs.mark(999, { note: "x" }))).message).toBe("there is no run 999");
    expect((await refusal(services.runs.mark(first, { tags: ["a,b"] }))).problems[0].path).toBe("tags");
  });

  it("is refused for runs that are none, and for too many", async () => {
    expect((await refusal(services.reading.compare([first, 999]))).message).toBe("there is no run 999");
    expect((await refusal(services.reading.compare([1, 2, 3, 4, 5, 6, 7, 8, 9]))).message).toContain("at most 8");
  });
});

describe("a run along the way", () => {
  it("has charts of what it held, and falls whose parts come to their whole", async () => {
    const run = await stored(first);
    const view = await alongView(services, run, ["exposure", "profit", "sectors", "units", "costs"], "ELVER");
    expect(view.charts.map(({ chart, lines }) => [chart, lines.map(({ name }) => name)])).toEqual([
      ["exposure", ["long", "short", "largest market"]],
      ["profit", ["ELVER"]],
      ["sectors", ["future"]],
      ["units", ["units of ELVER"]],
      ["costs", ["commissions", "spread", "slippage", "financing"]],
    ]);
    const profit = view.charts[1].lines[0].value.at(-1)!;
    expect(profit).toBeCloseTo(run.result.head.metrics.all.netProfit!, 6);
    expect(view.falls.length).toBeGreaterThan(0);
    for (const { fall, markets, sectors } of view.falls) {
      expect(markets[0].profit).toBeCloseTo(-fall.money, 6);
      expect(sectors).toEqual([{ name: "future", profit: markets[0].profit }]);
    }
    const [{ symbol, share, trade }] = view.largest;
    expect(symbol).toBe("ELVER");
    const { peakLongExposure, peakShortExposure } = run.result.head.metrics.all;
    expect(Math.abs(share)).toBeCloseTo(Math.max(peakLongExposure!, peakShortExposure!), 9);
    expect((await run.result.trades()).some(({ id }) => id === trade)).toBe(true);
  });
});

describe("a run against something else", () => {
  it("offers its own market first, and whatever else there is", async () => {
    const choices = (await againstChoices(services, await stored(first))).map(({ value }) => value);
    expect(choices[0]).toBe("market:ELVER");
    expect(choices).toContain(`run:${second}`);
    expect(choices).not.toContain(`run:${first}`);
    expect(choices).toContain("cash:0");
  });

  it("agrees with the benchmark's figures where both have them", async () => {
    const id = await services.runs.save(
      await services.strategies.create(SWING, "", null),
      runSettings((await services.markets.list())[0], { benchmark: "ELVER" }),
    );
    const run = await stored(id);
    const { all } = run.result.head.metrics;
    const { figures } = await against(services, run, "market:ELVER");
    expect(figures.netPercent[1]).toBeCloseTo(all.benchmarkNetPercent!, 9);
    expect(figures.cagr[1]).toBeCloseTo(all.benchmarkCagr!, 9);
    expect(figures.maxDrawdownPercent[1]).toBeCloseTo(all.benchmarkMaxDrawdownPercent!, 9);
    for (const key of ["beta", "alpha", "correlation"] as const) expect(figures[key]).toBeCloseTo(all[key]!, 9);
  });

  it("is itself where it is held against its twin of other capital", async () => {
    const { figures, lines } = await against(services, await stored(first), "cash:0");
    expect(figures.netPercent[1]).toBe(0);
    expect(lines[1].value.every((value) => value === lines[1].value[0])).toBe(true);
    const twin = await against(services, await stored(second), `run:${first}`);
    expect(twin.lines[1].value[0]).toBeGreaterThan(0);
  });

  it("a list in equal parts is the sum of its markets", async () => {
    const market = await addMarket(services, newMarket("EEL"), csvText(500));
    await services.lists.create("Both", "watch", { symbols: ["ELVER", market.symbol], plus: [], minus: [] });
    const [list] = await services.lists.list();
    const run = await stored(first);
    const [both, one, other] = await Promise.all(
      [`list:${list.id}`, "market:ELVER", "market:EEL"].map((choice) => against(services, run, choice)),
    );
    expect(both.figures.netPercent[1]).toBeCloseTo((one.figures.netPercent[1] + other.figures.netPercent[1]) / 2, 9);
  });

  it("refuses what there is none of, in words", async () => {
    const run = await stored(first);
    for (const [choice, message] of [
      ["market:COD", "there is no market COD"],
      ["run:999", "there is no run 999"],
      ["list:9", "there is no such list, or nothing is on it"],
      ["portfolio:9", "there is no portfolio 9"],
      ["cash:much", "“much” is no rate a year in percent"],
      ["nonsense", "a run can be held against a market, a list, a run, a portfolio or cash; “nonsense” is none of them"],
    ])
      expect((await refusal(against(services, run, choice))).message).toBe(message);
  });
});

describe("runs that were stored before their results lay in pieces", () => {
  it("are taken apart once, and read as before", async () => {
    const before = await whole(first);
    await services.db.$client.execute({ sql: "DELETE FROM run_parts WHERE run_id = ?", args: [first] });
    await services.db.$client.execute({
      sql: "UPDATE runs SET result = ? WHERE id = ?",
      args: [gzipSync(JSON.stringify(before.result)), first],
    });
    const again = await whole(first);
    expect(again.result).toEqual(before.result);
    expect(await (await stored(first)).result.levels()).toBeNull();
    expect(await services.runs.parts.raw(first, "trades")).not.toBeNull();
    expect((await services.runs.recompute(first))!.same).toBe(true);
  });
});

describe("what is remembered of how one looks", () => {
  it("is null until somebody chooses, and can be forgotten", async () => {
    expect(await services.preferences.choices()).toEqual({ tradeColumns: null, reportFigures: null, trialColumns: null });
    await services.preferences.choose("tradeColumns", ["id", "net"]);
    await services.preferences.choose("tradeColumns", ["net"]);
    expect((await services.preferences.choices()).tradeColumns).toEqual(["net"]);
    await services.preferences.choose("tradeColumns", null);
    expect((await services.preferences.choices()).tradeColumns).toBeNull();
    expect((await refusal(services.preferences.choose("wallpaper", ["x"]))).problems[0].path).toBe("choice");
    expect((await refusal(services.preferences.choose("tradeColumns", []))).problems[0].path).toBe("keys");
  });
});
