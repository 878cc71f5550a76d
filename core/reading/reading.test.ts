import { describe, expect, it } from "vitest";
import { DAY } from "#core/bars";
import { readSettings, type Metrics, type Trade } from "#core/documents";
import { deflatedSharpe, expectedBest, normalCdf, normalQuantile } from "#core/metrics";
import { Random } from "#core/random";
import {
  differsMuch,
  edgeLevel,
  fallsOf,
  figureRows,
  figuresOf,
  groupsOf,
  deflatingOf,
  luckOf,
  resampled,
  settingsDifference,
  standingApart,
  tradeDifference,
} from ".";

/** A trade of one unit with a net in money, which is also its percent. */
const trade = (id: number, net: number, more: Partial<Trade> = {}): Trade => ({
  id,
  symbol: "EEL",
  side: "long",
  units: 1,
  entryTime: `2020-01-${String((id % 27) + 1).padStart(2, "0")}T00:00:00.000Z`,
  entryPrice: 100,
  entryReason: "rule",
  exitTime: `2020-02-${String((id % 27) + 1).padStart(2, "0")}T00:00:00.000Z`,
  exitPrice: 100 + net,
  exitReason: "rule",
  bars: 3,
  gross: net,
  costs: 0,
  net,
  percent: net,
  r: net / 2,
  mae: Math.min(0, net),
  mfe: Math.max(0, net),
  open: false,
  ...more,
});

describe("trades that stand apart", () => {
  it("lie beyond the quartile plus three times the quartiles' distance, winners and losers each for themselves", () => {
    // winners 1 … 9: quartiles 3 and 7, so that the bound is 7 + 3 · 4 = 19 once 40 has moved the upper one
    const winners = [1, 2, 3, 4, 5, 6, 7, 8, 9].map((net, i) => trade(i + 1, net));
    expect(standingApart(winners)).toEqual({ good: [], bad: [], above: 19, below: null });
    const apart = standingApart([...winners, trade(10, 40), ...[1, 1, 1, 1, 1, 1, 1, 50].map((loss, i) => trade(20 + i, -loss))]);
    // quartiles of 1 … 9 and 40 are 3.25 and 7.75
    expect(apart.above).toBe(7.75 + 3 * 4.5);
    expect(apart.good).toEqual([10]);
    expect([apart.below, apart.bad]).toEqual([-1, [27]]);
  });

  it("are not looked for among fewer than eight of a kind, nor among open trades", () => {
    expect(standingApart([trade(1, 1), trade(2, 900)]).good).toEqual([]);
    const many = Array.from({ length: 9 }, (_, i) => trade(i + 1, 1));
    expect(standingApart([...many, trade(30, 500, { open: true })]).good).toEqual([]);
    expect(standingApart([])).toEqual({ good: [], bad: [], above: null, below: null });
  });
});

describe("groups of trades", () => {
  const list = [
    trade(1, 10, { exitTime: "2019-12-31T00:00:00.000Z", exitReason: "target" }),
    trade(2, -4, { symbol: "PEAT", exitReason: "stop" }),
    trade(3, 6, { side: "short", entryTime: "2020-03-02T23:30:00.000Z" }),
    trade(4, 99, { open: true, exitTime: null, exitReason: null }),
  ];
  const of = (by: Parameters<typeof groupsOf>[1], zone = "UTC") =>
    groupsOf(list, by, 1000, 365.25, { zoneOf: () => zone, sectorOf: (symbol) => (symbol === "EEL" ? "Fishing" : "Fuel") }).map(
      ({ key, trades, net }) => [key, trades, net],
    );

  it("put closed trades together by market, side, reason, time of exit and of entry", () => {
    expect(of("sector").map(([key]) => key)).toEqual(["Fishing", "Fuel"]);
    expect(of("market")).toEqual([
      ["EEL", 2, 16],
      ["PEAT", 1, -4],
    ]);
    expect(of("side")).toEqual([
      ["long", 2, 6],
      ["short", 1, 6],
    ]);
    expect(of("reason")).toEqual([
      ["target", 1, 10],
      ["rule", 1, 6],
      ["stop", 1, -4],
    ]);
    expect(of("year")).toEqual([
      ["2019", 1, 10],
      ["2020", 2, 2],
    ]);
    expect(of("month").map(([key]) => key)).toEqual(["2019-12", "2020-02"]);
  });

  it("tell weekday and hour in the market's own zone", () => {
    expect(of("weekday").at(0)).toEqual(["Monday", 1, 6]);
    expect(of("hour").at(-1)).toEqual(["23:00", 1, 6]);
    // half past eleven at night in UTC is the next morning in Copenhagen
    expect(of("weekday", "Europe/Copenhagen").find(([, , net]) => net === 6)![0]).toBe("Tuesday");
    expect(of("hour", "Europe/Copenhagen").at(0)).toEqual(["00:00", 1, 6]);
  });

  it("have shares of the net, and none where there is no profit", () => {
    expect(groupsOf(list, "side", 1000, 365.25).map(({ share }) => share)).toEqual([0.5, 0.5]);
    expect(groupsOf([trade(1, -5)], "side", 1000, 365.25)[0].share).toBeNull();
    expect(groupsOf([], "year", 1000, 365.25)).toEqual([]);
  });

  it("have the figures that trades alone give, open ones by their value", () => {
    const figures = figuresOf(list, 1000, 365.25);
    expect([figures.netProfit, figures.trades, figures.openTrades, figures.profitFactor]).toEqual([111, 3, 1, 4]);
    expect(figuresOf([], 1000, 365.25)).toMatchObject({ netProfit: 0, trades: 0, averageTrade: null, profitFactor: null });
  });
});

describe("falls of the equity", () => {
  const days = (...at: number[]) => at.map((day) => day * DAY);

  it("are told from peak to recovery, the last one to the end", () => {
    expect(fallsOf(days(0, 1, 2, 3, 4, 5, 6), [100, 90, 95, 110, 99, 66, 88], 100)).toEqual([
      { start: 0, low: DAY, recovered: 3 * DAY, money: 10, percent: 10, days: 3 },
      { start: 3 * DAY, low: 5 * DAY, recovered: null, money: 44, percent: 40, days: 3 },
    ]);
  });

  it("begin at the capital, and there are none in a rise", () => {
    expect(fallsOf(days(0, 1), [80, 90], 100)).toEqual([{ start: 0, low: 0, recovered: null, money: 20, percent: 20, days: 1 }]);
    expect(fallsOf(days(0, 1, 2), [100, 100, 101], 100)).toEqual([]);
  });
});

describe("the normal quantile", () => {
  it("turns the distribution round, far into its tails", () => {
    for (const p of [1e-12, 1e-5, 0.01, 0.3, 0.5, 0.7, 0.975, 1 - 1e-9]) expect(normalCdf(normalQuantile(p))).toBeCloseTo(p, 13);
    expect(normalQuantile(0.975)).toBeCloseTo(1.959963984540054, 12);
    expect([normalQuantile(0), normalQuantile(1), normalQuantile(2)]).toEqual([-Infinity, Infinity, NaN]);
  });
});

describe("the deflated Sharpe ratio", () => {
  it("gives the example of its authors: 100 trials, five years of days", () => {
    // yearly ratio 2.5, variance of the trials' ratios 1/2 a year, skew −3, kurtosis 10, 250 days a year
    expect(expectedBest(100, 0.5 / 250)).toBeCloseTo(0.1132, 4);
    expect(deflatedSharpe(2.5 / Math.sqrt(250), 1250, -3, 10, 100, 0.5 / 250)).toBeCloseTo(0.9004, 4);
  });

  it("has no value for a single trial", () => {
    expect(expectedBest(1, 0.5)).toBeNull();
    expect(deflatedSharpe(0.1, 500, 0, 3, 1, 0.5)).toBeNull();
  });
});

describe("resampled returns", () => {
  const noise = (count: number, mean: number, seed: number) => {
    const random = new Random(seed);
    return Float64Array.from({ length: count }, () => mean + 0.01 * random.normal());
  };

  it("are the same for the same seed, and blocks grow with the cube root", () => {
    const returns = noise(1000, 0, 3);
    expect(resampled(returns, 252, 5, 200)).toEqual(resampled(returns, 252, 5, 200));
    expect(resampled(returns, 252, 6, 200)).not.toEqual(resampled(returns, 252, 5, 200));
    expect(resampled(returns, 252, 5, 50)!.block).toBe(10);
  });

  it("of constant returns have one outcome and no Sharpe ratio", () => {
    const drawn = resampled(new Float64Array(100).fill(0.001), 250, 1, 50)!;
    expect(drawn.netPercent.low).toBeCloseTo(100 * (1.001 ** 100 - 1), 9);
    expect(drawn.netPercent.high).toBeCloseTo(drawn.netPercent.low, 9);
    expect(drawn.cagr!.middle).toBeCloseTo(100 * (1.001 ** 250 - 1), 9);
    expect([drawn.maxDrawdownPercent.high, drawn.lost]).toEqual([0, 0]);
  });

  it("of noise without a mean lose about as often as not, and hold the true ratio in nine of ten", () => {
    let lost = 0;
    let held = 0;
    for (let seed = 1; seed <= 40; seed++) {
      const drawn = resampled(noise(500, 0, seed), 252, seed, 300)!;
      lost += drawn.lost;
      if (drawn.sharpe!.low <= 0 && drawn.sharpe!.high >= 0) held++;
    }
    expect(lost / 40).toBeGreaterThan(0.35);
    expect(lost / 40).toBeLessThan(0.65);
    expect(held).toBeGreaterThanOrEqual(32);
  });

  it("need a sample", () => {
    expect(resampled(new Float64Array(59), 252, 1)).toBeNull();
  });
});

describe("is it luck?", () => {
  const good: Metrics = { trades: 120, tradeT: 3.1, probabilisticSharpe: 0.99, sharpe: 1.6, skew: 0, kurtosis: 3 };
  const returns = Float64Array.from({ length: 1500 }, (_, i) => 0.001 + (i % 2 === 0 ? 0.009 : -0.009));
  const ask = (metrics: Metrics, more: object = {}) =>
    luckOf({ metrics, returns, perYear: 252, trials: 50, sharpes: [0.1, 0.4, -0.2, 0.6, 1.6], seed: 1, ...more });

  it("answers by four figures, each with what it says", () => {
    const { answers, bestOfNoEdge } = ask(good);
    expect(answers.map(({ what }) => what)).toEqual([
      "t of the mean trade",
      "Probabilistic Sharpe ratio",
      "Deflated Sharpe ratio",
      "Resampled returns",
    ]);
    expect(answers.map(({ weight }) => weight)).toEqual(["for", "for", expect.any(String), "for"]);
    for (const { says } of answers) expect(says.length).toBeGreaterThan(20);
    expect(bestOfNoEdge).toBeGreaterThan(1);
    expect(answers[2].says).toContain("The best of 50 trials on this line would reach");
  });

  it("never says yes where the sample is too small", () => {
    expect(ask({ ...good, trades: 12 }).answers.map(({ weight }) => weight)).toEqual(["little", "little", "little", "little"]);
    expect(
      ask(good, { returns: returns.subarray(0, 40) })
        .answers.slice(1)
        .every(({ weight }) => weight === "little"),
    ).toBe(true);
    expect(
      ask({ trades: 0 }, { returns: null, sharpes: [] }).answers.every(({ value, weight }) => value === null && weight === "little"),
    ).toBe(true);
  });

  it("says no where the mean trade loses", () => {
    expect(
      ask({ ...good, tradeT: -0.4, probabilisticSharpe: 0.2 })
        .answers.slice(0, 2)
        .map(({ weight }) => weight),
    ).toEqual(["against", "against"]);
  });

  it("does not deflate one trial, nor where the spread of the trials is unknown", () => {
    expect(ask(good, { trials: 1 }).answers[2].value).toBeNull();
    expect(ask(good, { sharpes: [1] }).answers[2].says).toContain("fewer than two have a known Sharpe ratio");
  });
});

describe("two runs beside each other", () => {
  it("are told apart by the trades that only one took", () => {
    const other = [trade(1, 5), trade(3, 1, { side: "short" })];
    const { both, onlyFirst, onlySecond } = tradeDifference([trade(1, 3), trade(2, 4)], other);
    expect([both, onlyFirst.map(({ id }) => id), onlySecond.map(({ id }) => id)]).toEqual([1, [2], [3]]);
  });

  it("have figures in rows, marked where they differ by more than a tenth", () => {
    expect(
      figureRows(["netProfit", "trades"], [{ netProfit: 100, trades: 10 }, { netProfit: 111.2, trades: 11 }, { netProfit: null }]),
    ).toEqual([
      { key: "netProfit", values: [100, 111.2, null], much: [false, true, true] },
      { key: "trades", values: [10, 11, null], much: [false, false, true] },
    ]);
    expect([differsMuch(0, 0), differsMuch(null, null), differsMuch(1, -1)]).toEqual([false, false, true]);
  });

  it("say in words what differs between their run settings", () => {
    const settings = readSettings({
      format: "canyon.settings/1",
      capital: 1000,
      markets: [{ symbol: "EEL", bars: "eeleeleel", timeframe: "1d" }],
    }).value!;
    expect(settingsDifference(settings, settings)).toEqual([]);
    expect(settingsDifference(settings, { ...settings, capital: 2000, from: "2010-01-01" })).toEqual([
      { what: "dates", before: "start to end", now: "2010-01-01 to end" },
      { what: "capital", before: "1000", now: "2000" },
    ]);
  });
});

describe("the level of costs at which the edge is gone", () => {
  it("is solved, to a thousandth", () => {
    const { times, why, looked } = edgeLevel((k) => 100 - 27 * k);
    expect(times).toBeCloseTo(100 / 27, 2);
    expect(why).toBe("found");
    expect(looked[0]).toEqual({ times: 0, net: 100 });
    expect(looked.every((one, i) => i === 0 || one.times > looked[i - 1].times)).toBe(true);
  });

  it("may lie below the costs at hand, beyond what is looked at, or not exist", () => {
    expect(edgeLevel((k) => 10 - 40 * k).times).toBeCloseTo(0.25, 2);
    expect(edgeLevel(() => 5)).toMatchObject({ times: null, why: "beyond" });
    expect(edgeLevel(() => -1)).toEqual({ times: null, why: "nothing without costs", looked: [{ times: 0, net: -1 }] });
  });
});

describe("what the number of trials does to a result", () => {
  const metrics = { sharpe: 1.2, skew: 0, kurtosis: 3 };
  const sharpes = [0.1, 0.4, -0.2, 0.6, 1.2];

  it("is the deflated Sharpe ratio by the count, which only falls", () => {
    const given = deflatingOf({ metrics, n: 2520, perYear: 252, sharpes, trials: 40 })!;
    expect(given.now.trials).toBe(40);
    for (let k = 1; k < given.points.length; k++) {
      expect(given.points[k].deflated).toBeLessThan(given.points[k - 1].deflated);
      expect(given.points[k].best).toBeGreaterThan(given.points[k - 1].best);
    }
    const variance = sharpes
      .map((x) => x / Math.sqrt(252))
      .reduce((sum, x, _, all) => sum + (x - all.reduce((a, b) => a + b, 0) / all.length) ** 2 / 4, 0);
    expect(given.now.deflated).toBeCloseTo(deflatedSharpe(1.2 / Math.sqrt(252), 2520, 0, 3, 40, variance)!, 12);
  });

  it("can't be had without a ratio, or where fewer than two are known", () => {
    expect(deflatingOf({ metrics, n: 2520, perYear: 252, sharpes: [1], trials: 40 })).toBe(null);
    expect(deflatingOf({ metrics: { ...metrics, sharpe: null }, n: 2520, perYear: 252, sharpes, trials: 40 })).toBe(null);
  });
});
