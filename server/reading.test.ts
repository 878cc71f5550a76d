import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { Metrics } from "#core/documents";
import { fallsOf, figuresOf, stretchFigures } from "#core/reading";
import { addMarket, csvText, emptyFolder, newMarket, openTest, refusal, runSettings, SWING } from "./testing/services";
import type { Services } from "./services";

let services: Services;
let first: number;
let second: number;
const stored = async (id: number) => (await services.runs.get(id))!;

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
    const { result, summary } = await stored(first);
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
    const { result, summary } = await stored(first);
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
    if (own !== undefined) expect(own.net).toBeCloseTo(run.result.metrics.all.netProfit!, 6);
    expect(free.length).toBe(run.result.equity.equity.length);
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
    expect(other.equity.at(-1)).toBe((await stored(second)).result.equity.equity.at(-1));
  });

  it("a note, tags and a pin stand beside it and change nothing of it", async () => {
    const before = (await stored(first)).result;
    await services.runs.mark(first, { note: " worth a look ", tags: ["quay", " slow ", "quay", ""] });
    await services.runs.mark(first, { pinned: true });
    const { summary, result } = await stored(first);
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
