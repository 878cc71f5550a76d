import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { readSettings, readStrategy, type Settings, type Strategy } from "#core/documents";
import { prepareRun } from "#core/engine";
import { runMarkets, soleMember } from "#core/runs";
import { expectClose } from "#core/testing/compare";
import { fixtureBars, fixtureJson } from "#core/testing/fixtures";
import {
  computeSearch,
  computeTrials,
  figuresFault,
  fitsOf,
  gridPart,
  layGrid,
  metricsRecord,
  placesOf,
  prepareOptimization,
  readOptimization,
  searchSettings,
  type PreparedOptimization,
  type Search,
} from ".";

const at = "research/01-two-averages";
const plan = fixtureJson(`${at}/plan.json`);
const strategy: Strategy = readStrategy(fixtureJson(`${at}/strategy.json`)).value!;
const settings: Settings = readSettings(fixtureJson(`${at}/settings.json`)).value!;
const bars = settings.markets.map((market) => fixtureBars(`${at}/${market.bars}`));
const search: Search = {
  vary: plan.vary,
  where: plan.where,
  objective: plan.objective.map((o: object) => ({ want: "more", weight: 1, ...o })),
  limits: plan.limits,
};
const input = { strategy, settings: searchSettings(settings, plan.from, plan.to), search };

/** Trials of a grid with their fits. */
function computed(prepared: PreparedOptimization, asked: Search, from: number, to: number) {
  const trials = computeSearch(prepared, asked, gridPart(prepared.grid, from, to), from);
  const fits = fitsOf(
    trials.map((trial) => trial.metrics),
    asked.objective,
    asked.limits,
  );
  return trials.map((trial, i) => ({ ...trial, fit: fits[i] }));
}

describe("the optimization with known results, as far as the grid goes", () => {
  const want = fixtureJson(`${at}/expected.json`);
  const prepared = prepareOptimization(input, bars);
  const rows = computed(prepared, search, 0, prepared.grid.total);

  it("has the known trials, in grid order, with the known figures and fits", () => {
    expect(rows.length).toBe(want.trials.length);
    rows.forEach((row, i) => {
      expect(row.number).toBe(want.trials[i].number);
      expect(row.values).toEqual(want.trials[i].values);
      expectClose(row.fit, want.trials[i].fit, 1e-7, `fit of ${i}`);
      const metrics = metricsRecord(row.metrics);
      for (const [key, value] of Object.entries(want.trials[i].metrics)) expectClose(metrics[key], value, 1e-7, `trial ${i} ${key}`);
    });
  });

  it("finds the known best", () => {
    const best = rows.filter((row) => row.fit !== null).reduce((top, row) => (row.fit! > top.fit! ? row : top));
    expect(best.number).toBe(want.best);
  });

  it("gives the same trials whoever computes which, and in whatever order", () => {
    const { total } = prepared.grid;
    const cut = Math.floor(total / 3);
    const other = prepareOptimization(input, bars);
    const later = computed(other, search, cut, total);
    const first = computed(other, search, 0, cut);
    expect([...first, ...later]).toEqual(rows);
  });
});

describe("a method's numbers", () => {
  const read = (method: object) => readOptimization({ ...plan, strategy, settings, method });
  it("have defaults", () => {
    expect(read({ kind: "evolution" }).value!.method).toEqual({
      kind: "evolution",
      population: 60,
      generations: 30,
      elite: 2,
      mutation: 0.15,
      islands: 1,
      seed: 1,
      patience: 8,
    });
    expect(readOptimization({ ...plan, strategy, settings }).value!.method).toEqual({ kind: "grid" });
  });
  it.each<[object, RegExp]>([
    [{ kind: "random" }, /^method.trials: “random” needs trials/],
    [{ kind: "sobol", trials: 0 }, /^method.trials: must be at least 1/],
    [{ kind: "refine", coarse: 1 }, /^method.coarse: must be at least 2/],
    [{ kind: "evolution", mutation: 2 }, /^method.mutation: must be from 0 to 1/],
    [{ kind: "evolution", population: 10, elite: 10 }, /^method.elite: must be from 0 to 9/],
    [{ kind: "evolution", population: 10, islands: 6 }, /^method.islands: every island needs two/],
    [{ kind: "guess" }, /^method.kind/],
  ])("%j is refused", (method, message) => {
    expect(read(method).problems.map((p) => `${p.path}: ${p.message}`)[0]).toMatch(message);
  });
});

describe("what can't be searched", () => {
  const refused = (vary: object[], more: Partial<Search> = {}) =>
    layGrid(strategy, { ...search, where: undefined, vary: vary as Search["vary"], ...more }).problems.map(
      (p) => `${p.path}: ${p.message}`,
    )[0];
  const slow = { name: "slow", from: 20, to: 40, step: 10 };

  it.each<[object[], RegExp]>([
    [[{ name: "fats", from: 1, to: 2, step: 1 }], /vary\[0\]\.name: “fats” is neither/],
    [[{ name: "fast", from: 5, to: 10, step: 0 }], /step: the step of fast must be above 0/],
    [[{ name: "fast", from: 10, to: 5, step: 1 }], /from: the range of fast is empty: it goes from 10 to 5/],
    [[{ name: "fast", from: 5, to: 10, step: 0.5 }], /whole numbers only; 5\.5/],
    [[{ name: "fast", values: [5, 6, 5] }], /values: 5 stands twice/],
    [[{ name: "fast", values: [] }], /at least one value/],
    [[{ name: "fast", values: [5], step: 1 }], /either values or from/],
    [[slow, slow], /vary\[1\]\.name: “slow” is varied twice/],
    [[{ name: "fast", from: -3, to: 4, step: 1 }], /with fast = -3: .*at least 1/],
  ])("%j", (vary, message) => {
    expect(refused(vary)).toMatch(message);
  });

  it("a million million trials, with the count", () => {
    const vary = ["fast", "slow"].map((name) => ({ name, from: 1, to: 1_000_000, step: 1 }));
    expect(refused(vary)).toBe(
      "vary: this makes 1,000,000,000,000 combinations; at most 10,000,000 are possible. Use larger steps or fewer parameters",
    );
  });

  it("a condition that leaves nothing, looks at bars or is no condition", () => {
    expect(refused([slow], { where: "slow < 1" })).toMatch(/no combination is left/);
    expect(refused([slow], { where: "close > slow" })).toMatch(/parameters only/);
    expect(refused([slow], { where: "slow + 1" })).toMatch(/yes\/no/);
  });

  it("unknown metrics and keys", () => {
    const paths = readOptimization({ ...plan, mark: undefined, objective: [{ metric: "luck" }], colour: 1 }).problems.map((p) => p.path);
    expect(paths).toEqual(expect.arrayContaining(["objective[0].metric", "colour"]));
  });
});

describe("grids", () => {
  it("count every combination once, the last axis fastest", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 5 }), { minLength: 1, maxLength: 4 }), (sizes) => {
        const axes = sizes.map((size, i) => ({ name: `p${i}`, values: Array.from({ length: size }, (_, k) => k), steps: true }));
        const total = sizes.reduce((a, b) => a * b, 1);
        const places = Array.from({ length: total }, (_, k) => placesOf(axes, k));
        expect(new Set(places.map(String)).size).toBe(total);
        expect(places[0]).toEqual(sizes.map(() => 0));
        if (total > 1 && sizes.at(-1)! > 1) expect(places[1].at(-1)).toBe(1);
      }),
    );
  });

  it("judge by limits first: what breaks one has no fit", () => {
    const grid = layGrid(strategy, { ...search, where: undefined, vary: [{ name: "fast", values: [5] }] }).value!;
    const run = prepareRun([soleMember(grid.compiled, settings)], settings, runMarkets(settings, bars, grid.compiled.timeframe)).value!;
    const [trial] = computeTrials(grid, run, 0, 1);
    const objective = { metric: "netProfit", want: "less" as const, weight: 1 };
    const net = metricsRecord(trial.metrics).netProfit!;
    expect(fitsOf([trial.metrics], [objective], [])).toEqual([-net]);
    expect(fitsOf([trial.metrics], [objective], [{ metric: "trades", least: 1e6 }])).toEqual([null]);
    expect(fitsOf([trial.metrics], [objective], [{ metric: "deflatedSharpe", least: 0 }])).toEqual([null]);
  });
});

describe("trials that keep the figures of their trades alone", () => {
  const asked: Search = { ...search, figures: "trades", objective: [{ metric: "netProfit", want: "more", weight: 1 }], limits: [] };

  it("have the same ones, and the same best", () => {
    const prepared = prepareOptimization(input, bars);
    const whole = computed(prepared, { ...asked, figures: "all" }, 0, prepared.grid.total);
    const quick = computed(prepared, asked, 0, prepared.grid.total);
    expect(quick.map((row) => row.fit)).toEqual(whole.map((row) => row.fit));
    const [one, other] = [metricsRecord(quick[3].metrics), metricsRecord(whole[3].metrics)];
    expect(one.profitFactor).toBe(other.profitFactor);
    expect(one.sharpe).toBeNull();
    expect(other.sharpe).not.toBeNull();
  });

  it("are refused where the objective or a limit rests on the equity", () => {
    expect(figuresFault(asked)).toBeNull();
    expect(figuresFault({ ...asked, limits: [{ metric: "sharpe", least: 1 }] })).toEqual({
      path: "figures",
      message: "sharpe ratio rests on the equity at every close, not on trades alone; keep all figures",
    });
    expect(figuresFault({ ...asked, figures: "all", limits: [{ metric: "sharpe", least: 1 }] })).toBeNull();
  });

  it("are the same where columns beyond the capacity are dropped and their memory used again", () => {
    const grid = prepareOptimization(input, bars).grid;
    const settingsOf = searchSettings(settings, plan.from, plan.to);
    const small = () => {
      const markets = runMarkets(settingsOf, bars, grid.compiled.timeframe);
      for (const { store } of markets) Object.assign(store, { capacityBytes: 5 * 8 * bars[0].length });
      return prepareRun([soleMember(grid.compiled, settingsOf)], settingsOf, markets).value!;
    };
    const large = prepareOptimization(input, bars).runs[0];
    const [tight, roomy] = [computeTrials(grid, small(), 0, grid.total), computeTrials(grid, large, 0, grid.total)];
    expect(tight.map((trial) => [...trial.metrics])).toEqual(roomy.map((trial) => [...trial.metrics]));
  });
});
