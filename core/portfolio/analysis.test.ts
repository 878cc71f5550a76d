import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { parseDate } from "#core/bars";
import { readSettings, readStrategy } from "#core/documents";
import { simulate } from "#core/engine";
import { periodEnds, periodReturns, periodsPerYear, sampleDeviation } from "#core/metrics";
import { Random } from "#core/random";
import { fixtureBars } from "#core/testing/fixtures";
import {
  addedReturns,
  alike,
  badDays,
  choose,
  clusterOrder,
  contributionsOf,
  correlations,
  drawDays,
  drawnAccount,
  estimateWeights,
  fitWeights,
  givenUp,
  groupsOf,
  joinFault,
  overlapOf,
  periodChanges,
  prepareMembers,
  runOf,
  sizeFor,
  stretchRow,
  valueOf,
  wholeRun,
  withOneMore,
  withoutOne,
  withWeights,
  type Account,
  type ChoicePool,
  type Member,
} from ".";

const bars = [fixtureBars("data/ferry-1d.csv"), fixtureBars("data/kelp-1d.csv")];
const settings = readSettings({
  format: "canyon.settings/1",
  markets: ["FERRY", "KELP"].map((symbol) => ({ symbol, bars: symbol, timeframe: "1d", tick: 0.25 })),
  capital: 100_000,
}).value!;
const member = (name: string, length: number, markets: string[] | undefined, weight: number): Member => ({
  name,
  markets,
  weight,
  strategy: readStrategy({
    format: "canyon.strategy/1",
    timeframe: "1d",
    long: { enter: { when: `close > sma(close, ${length})` }, exit: { when: `close < sma(close, ${length})` } },
    short: { enter: { when: `close < lowest(low, ${length}) 1 back` } },
    sizing: { mode: "equityPercent", value: 80 },
  }).value!,
});
const members = [member("a", 10, ["FERRY"], 0.4), member("b", 30, ["KELP"], 0.35), member("c", 12, undefined, 0.25)];
const account: Account = { prepared: prepareMembers(members, settings, bars).value!, settings };
const simulation = simulate(wholeRun(account), { members: true });
const sum = (list: readonly number[]) => list.reduce((a, b) => a + b, 0);

describe("changes by day, week and month", () => {
  it.each(["day", "week", "month"] as const)("of a %s: members add up to the account, and all periods to its profit", (frequency) => {
    const { members: own, total, before, dates } = periodChanges(simulation, frequency);
    total.forEach((change, k) => expect(sum(own.map((changes) => changes[k]))).toBeCloseTo(change, 6));
    expect(sum([...total])).toBeCloseTo(simulation.equity.at(-1)! - settings.capital, 6);
    expect(before[3]).toBeCloseTo(before[2] + total[2], 6);
    const month = (date: number) => new Date(date * 86_400_000).toISOString().slice(0, 7);
    if (frequency === "month") expect(new Set([...dates].map(month)).size).toBe(dates.length);
  });

  it("of a stretch begin with the equity before it", () => {
    const all = periodChanges(simulation, "day");
    const [from, to] = [all.dates[100], all.dates[199]];
    const part = periodChanges(simulation, "day", from, to);
    expect(part.total).toEqual(all.total.slice(100, 200));
    expect(part.before).toEqual(all.before.slice(100, 200));
    expect(part.members[1]).toEqual(all.members[1].slice(100, 200));
  });
});

describe("contributions", () => {
  const { profit, volatility, falls } = contributionsOf(simulation);
  it("add up to the account's profit and volatility, and to every fall", () => {
    expect(sum(profit)).toBeCloseTo(simulation.equity.at(-1)! - settings.capital, 7);
    const returns = periodReturns(simulation.equity, periodEnds(simulation.run), settings.capital)!;
    const whole = 100 * sampleDeviation(returns) * Math.sqrt(periodsPerYear(simulation.run));
    expect(Math.abs(sum(volatility!) / whole - 1)).toBeLessThan(1e-9);
    expect(falls.length).toBeGreaterThan(2);
    for (const { fall, members: parts } of falls) expect(sum(parts)).toBeCloseTo(-fall.money, 6);
    falls.slice(1).forEach(({ fall }, k) => expect(fall.percent).toBeLessThanOrEqual(falls[k].fall.percent));
  });
});

describe("how members go together", () => {
  const random = new Random(5);
  const noise = () => Float64Array.from({ length: 400 }, () => random.normal());
  const [x, y] = [noise(), noise()];
  const near = (of: Float64Array) => of.map((value) => value + 0.2 * random.normal());
  const series = [x, y, near(x), near(y), near(x)];
  const values = correlations(series);

  it("puts what is alike next to each other, and groups it", () => {
    const order = clusterOrder(values);
    expect([...order].sort()).toEqual([0, 1, 2, 3, 4]);
    const kind = order.map((k) => (k === 1 || k === 3 ? "y" : "x")).join("");
    expect(["xxxyy", "yyxxx"]).toContain(kind);
    expect(alike(values, 0.9)).toEqual([
      [0, 2, 4],
      [1, 3],
    ]);
    expect(alike(values, 1.1)).toHaveLength(5);
  });

  it("is null where one does not vary", () => {
    expect(correlations([x, new Float64Array(400)])[0][1]).toBeNull();
  });

  it("in bad days: the tenth with the lowest returns, and the share of a worst tenth that is another's, too", () => {
    const changes = periodChanges(simulation, "day");
    const bad = badDays(changes)!;
    expect(bad.count).toBe(Math.floor(changes.total.length / 10));
    bad.shared.forEach((row, i) => expect(row[i]).toBe(1));
    expect(bad.shared[0][2]).toBe(bad.shared[2][0]);
    const returns = [...changes.total].map((change, k) => change / changes.before[k]);
    const mark = [...returns].sort((a, b) => a - b)[bad.count - 1];
    const worst = returns.flatMap((r, k) => (r <= mark ? [k] : []));
    const picked = [0, 2].map((m) => Float64Array.from(worst, (k) => changes.members[m][k]));
    expect(bad.correlation[0][2]).toBeCloseTo(correlations(picked)[0][1]!, 12);
  });
});

describe("overlap", () => {
  it("counts the closes at which members hold something, as the run itself saw it", () => {
    const held: number[][] = [];
    simulate(wholeRun(account), {
      watch: (_t, _equity, legs) =>
        void held.push(members.map((_, m) => (legs.some((leg) => leg.memberIndex === m && leg.side !== 0) ? 1 : 0))),
    });
    const overlap = overlapOf(simulation);
    const [a, c] = [held.filter((row) => row[0]).length, held.filter((row) => row[0] && row[2]).length];
    expect(overlap.time[0][2]).toBeCloseTo(c / a, 12);
    expect(sum([...overlap.members])).toBe(sum(held.map(sum)));
    expect(overlap.markets[0][2]).toEqual(["FERRY"]);
    expect(overlap.markets[0][1]).toEqual([]);
    expect(overlap.sameSide[0][1]).toBe(0);
    expect(overlap.sameSide[0][2]).toBeGreaterThan(0);
  });
});

describe("members that come, go and fail", () => {
  it("give their weight to the others, or take an equal part", () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 2, maxLength: 8 }), (raw) => {
        const total = sum(raw);
        if (!(total > 0.01)) return;
        const weights = raw.map((w) => w / total);
        expect(sum(withoutOne(weights, 0))).toBeCloseTo(1, 9);
        expect(sum(withOneMore(weights))).toBeCloseTo(1, 9);
      }),
    );
    expect(withoutOne([1, 0, 0], 0)).toEqual([0.5, 0.5]);
  });

  it("one alone with weight 1 is its own run", () => {
    const alone = simulate(runOf(account, [1], [1]), { members: true });
    const own = simulate(runOf({ prepared: prepareMembers([members[1]], settings, bars).value!, settings }, [0], [1]));
    expect(alone.equity).toEqual(own.equity);
  });

  it("given up at a date, one trades no more from its next bar on, and the others go on", () => {
    const date = parseDate("2015-06-01")!;
    const after = givenUp(account, 0, date)!;
    const entries = (m: number) =>
      Array.from({ length: after.log.count }, (_, row) => row)
        .filter((row) => after.legs[after.log.leg[row]].memberIndex === m)
        .map((row) => after.legs[after.log.leg[row]].market.dates[after.log.entryRow[row]]);
    expect(Math.max(...entries(0))).toBeLessThanOrEqual(date);
    expect(Math.max(...entries(1))).toBeGreaterThan(date);
    const { dates } = after.run.clock;
    const at = dates.findIndex((one) => one > date + 7);
    expect(new Set(after.memberProfit![0].slice(at)).size).toBe(1);
    // up to that date nothing is different
    const before = dates.findIndex((one) => one >= date);
    expect(after.equity.slice(0, before)).toEqual(simulation.equity.slice(0, before));
  });
});

describe("weights along the way", () => {
  const weighting = { mode: "inverseVolatility", from: "2014-06-02", to: "2015-12-31", every: 6 } as const;
  const fitted = fitWeights(members, weighting, settings, bars).value!;

  it("are estimated anew at each interval, on stretches that end the day before", () => {
    expect(fitted.length).toBeGreaterThan(2);
    expect(fitted[1]).toMatchObject({ from: "2016-07-01", on: { from: "2014-12-02", to: "2016-06-30" } });
    const alone = estimateWeights(members, { mode: "inverseVolatility", ...fitted[1].on! }, settings, bars).value!;
    expect(fitted[1].weights).toEqual(alone);
    expect(fitted.every(({ weights }) => Math.abs(sum(weights) - 1) < 1e-9)).toBe(true);
  });

  it("size the entries from their date on, and change nothing before", () => {
    const changing = simulate(wholeRun({ prepared: prepareMembers(withWeights(members, fitted), settings, bars).value!, settings }), {
      members: true,
    });
    const still = simulate(
      wholeRun({ prepared: prepareMembers(withWeights(members, fitted.slice(0, 1)), settings, bars).value!, settings }),
      { members: true },
    );
    const at = changing.run.clock.dates.findIndex((date) => date >= parseDate(fitted[1].from!)!);
    expect(changing.equity.slice(0, at)).toEqual(still.equity.slice(0, at));
    expect(changing.equity.at(-1)).not.toBe(still.equity.at(-1));
    const { log, legs } = changing;
    const row = Array.from({ length: log.count }, (_, k) => k).find(
      (k) => log.leg[k] === 1 && legs[1].market.dates[log.entryRow[k] - 1] >= parseDate(fitted[1].from!)!,
    )!;
    const signal = log.entryRow[row] - 1;
    const t = changing.run.clock.times.indexOf(legs[1].market.bars.time[signal]);
    const raw = (fitted[1].weights[1] * 0.8 * changing.equity[t]) / legs[1].market.bars.close[signal];
    expect(log.units[row]).toBe(Math.floor(raw + 1e-9));
  });

  it("are refused on a stretch too short for so many members, and say which", () => {
    const short = { mode: "riskParity", from: "2014-01-06", to: "2014-01-08" } as const;
    expect(estimateWeights(members, short, settings, bars).problems[0]).toMatchObject({
      path: expect.stringMatching(/weights.to|members/),
    });
  });
});

describe("figures of a stretch", () => {
  it("are those of the whole where it is the whole", () => {
    const row = stretchRow(simulation);
    expect(row.netPercent).toBeCloseTo(100 * (simulation.equity.at(-1)! / settings.capital - 1), 9);
    expect(stretchRow(simulation, parseDate("2050-01-01")!)).toMatchObject({ netPercent: null, sharpe: null });
  });
});

describe("days drawn anew", () => {
  const added = addedReturns(periodChanges(simulation, "day"))!;

  it("are the same for the same seed, and fall less when members are drawn apart that fall together", () => {
    const [one, two] = [drawDays(added, 7, 200)!, drawDays(added, 7, 200)!];
    expect(one.returns).toEqual(two.returns);
    const same = [added[0], added[0], added[0]];
    const [joint, apart] = [drawDays(same, 7, 400)!, drawDays(same, 7, 400, true)!];
    expect(drawnAccount(joint).drawdown95).toBeGreaterThan(1.2 * drawnAccount(apart).drawdown95);
  });

  it("keep days together: with one block as long as all, every draw is the account's own days in a circle", () => {
    const draws = drawDays([Float64Array.from({ length: 64 }, (_, k) => k)], 1, 1)!;
    for (let i = 1; i < 64; i++) if (i % draws.block !== 0) expect((draws.returns[i] - draws.returns[i - 1] + 64) % 64).toBe(1);
  });

  it("give the size at which 95 of 100 fall no deeper than asked", () => {
    const draws = drawDays(added, 3, 400)!;
    const size = sizeFor(draws, 15);
    const within = (s: number) => {
      let count = 0;
      for (let k = 0; k < draws.samples; k++) {
        let [value, peak, deepest] = [1, 1, 0];
        for (let i = k * draws.days; i < (k + 1) * draws.days; i++) {
          value *= 1 + s * draws.returns[i];
          peak = Math.max(peak, value);
          deepest = Math.max(deepest, 1 - value / peak);
        }
        if (deepest <= 0.15) count++;
      }
      return count / draws.samples;
    };
    expect(within(size)).toBeGreaterThanOrEqual(0.95);
    expect(within(size + 0.01)).toBeLessThan(0.95);
    expect(drawDays([new Float64Array(20)], 1)).toBeNull();
  });
});

describe("choosing the best few of many", () => {
  const random = new Random(11);
  const n = 12;
  const base = Float64Array.from({ length: 500 }, () => 0.01 * random.normal());
  const candidates = Array.from({ length: n }, (_, i) => ({
    returns: base.map((b) => (i < 3 ? b : 0.3 * b) + 0.01 * random.normal() * (i < 3 ? 0.1 : 1) + 0.0004 + 0.0001 * i),
    markets: [`M${i % 5}`],
    sectors: [i % 2 === 0 ? "even" : "odd"],
  }));
  const pool: ChoicePool = {
    candidates,
    correlations: correlations(candidates.map(({ returns }) => returns)),
    times: Float64Array.from(base, (_, t) => t * 86_400_000),
    perYear: 252,
    objective: "sharpe",
    limits: {},
  };
  /** Every selection of so many from a list. */
  const selections = (from: readonly number[], count: number): number[][] =>
    count === 0 ? [[]] : from.flatMap((one, k) => selections(from.slice(k + 1), count - 1).map((rest) => [one, ...rest]));

  it("lets one stand for those that are nearly the same", () => {
    const groups = groupsOf(pool);
    expect(groups.find(({ members: own }) => own.length > 1)!.members).toEqual([0, 1, 2]);
    const { first } = groups.find(({ members: own }) => own.length > 1)!;
    for (const i of [0, 1, 2]) expect(valueOf(pool, [first])).toBeGreaterThanOrEqual(valueOf(pool, [i]));
  });

  it.each(["sharpe", "profitToDrawdown", "cagr"] as const)(
    "by %s: evolution finds the best of all selections, greedy never a better one",
    (objective) => {
      const own = { ...pool, objective };
      const field = groupsOf(own).map(({ first }) => first);
      const best = Math.max(...selections(field, 4).map((chosen) => valueOf(own, chosen)));
      const evolved = choose(own, 4, "evolution", 3);
      expect(evolved.value).toBeCloseTo(best, 12);
      expect(choose(own, 4, "greedy").value).toBeLessThanOrEqual(best + 1e-12);
      expect(choose(own, 4, "evolution", 3)).toEqual(evolved);
      expect(evolved.looks).toBeLessThanOrEqual(selections(field, 4).length);
    },
  );

  it.each(["greedy", "evolution"] as const)("%s keeps to the limits and counts its looks", (method) => {
    const own = { ...pool, limits: { correlation: 0.35, perMarket: 1, perSector: 2 } };
    const { chosen, looks } = choose(own, 4, method, 2);
    expect(chosen.length).toBeGreaterThan(1);
    expect(looks).toBeGreaterThan(4);
    chosen.forEach((one, k) => expect(joinFault(own, chosen.slice(0, k), one)).toBeNull());
    expect(new Set(chosen.map((i) => candidates[i].markets[0])).size).toBe(chosen.length);
    expect(choose({ ...own, limits: { correlation: -2 } }, 3, method).chosen.length).toBe(1);
  });
});
