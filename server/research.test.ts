import { eq } from "drizzle-orm";
import { describe, expect, it } from "vitest";
import { METRIC_KEYS } from "#core/metrics";
import { backtest } from "#core/runs";
import { bestByLuck, computeSearch, laySpace, metricsRecord, poolFigures, prepareOptimization } from "#core/optimize";
import { jobs, trialColumns, trials } from "./db/schema";
import { withValues } from "~/strategies/with-values";
import { leaveOut } from "./leave-out";
import { reachedByLuck } from "#core/optimize";
import { addMarket, csvText, emptyFolder, ended, newMarket, openTest, refusal, runSettings, SWING } from "./testing/services";
import { settingsMarket } from "./markets";
import type { Services } from "./services";

const SEARCH = {
  vary: [
    { name: "fast", from: 2, to: 8, step: 2 },
    { name: "slow", from: 12, to: 32, step: 4 },
  ],
  objective: [{ metric: "netProfit" }],
  limits: [{ metric: "trades", least: 2 }],
};

async function prepared() {
  const services = await openTest(emptyFolder());
  const market = await addMarket(services, newMarket("ELVER"), csvText(400));
  const version = await services.strategies.create(SWING, "", null);
  await services.jobs.start();
  return { services, market, version, settings: runSettings(market) };
}

async function finished(services: Services, id: number) {
  expect(await ended(services, (await services.optimizations.get(id))!.job.id)).toBe("done");
  return (await services.optimizations.get(id))!;
}

describe("trials as columns", () => {
  it("are sorted, filtered and cut on the server, and say what is wrong with those outside", async () => {
    const { services, version, settings } = await prepared();
    const search = { ...SEARCH, limits: [{ metric: "trades", least: 12 }] };
    const view = await finished(services, await services.optimizations.create(version, search, settings));
    const ask = { sort: "-", falling: false, filters: [], standing: "all" as const, columns: ["netProfit", "trades"] };
    const all = await services.trials.page(view, { ...ask, sort: "number" }, 0, 100);
    expect(all).toMatchObject({ count: 24, all: 24 });
    const outside = all.rows.filter((row) => row.fit === null);
    expect(outside.length).toBeGreaterThan(0);
    expect(outside.length).toBeLessThan(24);
    for (const row of all.rows) {
      expect(row.fit === null).toBe(row.metrics.trades! < 12);
      expect(row.faults).toEqual(row.fit === null ? ["closed trades below 12"] : []);
    }
    const filtered = await services.trials.page(
      view,
      { ...ask, sort: "fit", falling: true, filters: [{ key: "fast", least: 4, most: 6 }], standing: "inside" },
      1,
      3,
    );
    const wanted = all.rows
      .filter((row) => row.fit !== null && row.values.fast >= 4 && row.values.fast <= 6)
      .sort((a, b) => b.fit! - a.fit! || a.number - b.number);
    expect(filtered.count).toBe(wanted.length);
    expect(filtered.rows).toEqual(wanted.slice(1, 4));
    expect((await services.trials.best(view, ["netProfit", "trades"]))!).toEqual(
      wanted.length > 0 ? [...all.rows].sort((a, b) => (b.fit ?? -1e9) - (a.fit ?? -1e9) || a.number - b.number)[0] : null,
    );
    const one = (await services.trials.one(view, 7))!;
    expect(Object.keys(one.metrics)).toEqual(METRIC_KEYS);
    expect(one.metrics.netProfit).toBe(all.rows[7].metrics.netProfit);
    expect(await services.trials.one(view, 24)).toBeNull();
    const glance = await services.trials.glance(view, "trades", "netProfit");
    expect(glance.count).toBe(24 - outside.length);
    expect(glance.bins.reduce((sum, bin) => sum + bin.count, 0)).toBe(glance.count);
    const lines = await services.trials.lines(view, ask, 6);
    expect(lines.length).toBe(Math.min(6, glance.count));
    expect(lines.every((row) => row.fit !== null)).toBe(true);
    await services.close();
  });

  it("are made of the rows that earlier versions stored, when the server starts", async () => {
    const folder = emptyFolder();
    const services = await openTest(folder);
    const market = await addMarket(services, newMarket("ELVER"), csvText(400));
    const version = await services.strategies.create(SWING, "", null);
    await services.jobs.start();
    const view = await finished(services, await services.optimizations.create(version, SEARCH, runSettings(market)));
    const before = [];
    for await (const part of services.trials.everything(view)) before.push(...part);
    // as they were stored then, two chunks of them missing
    await services.db.insert(trials).values(
      before
        .filter(({ number }) => number < 5 || number > 11)
        .map(({ number, values, fit, metrics }) => ({
          optimizationId: view.id,
          number,
          values: JSON.stringify(values),
          fit,
          metrics: JSON.stringify(metrics),
        })),
    );
    await services.db.delete(trialColumns);
    await services.close();
    const again = await openTest(folder);
    const after = [];
    for await (const part of again.trials.everything(view)) after.push(...part);
    expect(after).toEqual(before.filter(({ number }) => number < 5 || number > 11));
    expect(await again.db.select().from(trials)).toEqual([]);
    await again.close();
  });
});

describe("markets that are taken each by itself", () => {
  it("give one figure made of theirs; the whole account is refused where it is asked for", async () => {
    const { services, market, version, settings } = await prepared();
    const other = await addMarket(services, newMarket("GARFISH"), csvText(400, "2015-02-01"));
    const both = { ...settings, markets: [settingsMarket(market), settingsMarket(other)] };
    const view = await finished(services, await services.optimizations.create(version, { ...SEARCH, pooling: "worst" }, both));
    const alone = await Promise.all(
      [market, other].map(async (one) => {
        const own = { ...settings, markets: [settingsMarket(one)], benchmark: one.symbol };
        const { search } = view;
        const input = { strategy: version.strategy, settings: own, search: { ...search, pooling: "together" as const } };
        const bars = await services.bars.all([own.markets[0].bars]);
        return computeSearch(prepareOptimization(input, bars), input.search, [3], 0)[0].metrics;
      }),
    );
    const [row] = (
      await services.trials.page(
        view,
        { sort: "number", falling: false, filters: [], standing: "all", columns: ["netProfit", "sharpe"] },
        3,
        1,
      )
    ).rows;
    const wanted = metricsRecord(poolFigures(alone, "worst"));
    expect(row.metrics).toEqual({ netProfit: wanted.netProfit, sharpe: wanted.sharpe });
    expect((await refusal(services.lucks.of(view))).message).toContain("no common account");
    expect(
      (await refusal(services.optimizations.create(version, { ...SEARCH, pooling: "sum", objective: [{ metric: "sharpe" }] }, both)))
        .message,
    ).toContain("does not add up");
    await services.close();
  });
});

describe("what luck alone would have found", () => {
  it("is the search repeated on permuted bars, the same by the same seed, and goes on after a stop", async () => {
    const { services, version, settings } = await prepared();
    const view = await finished(services, await services.optimizations.create(version, SEARCH, settings));
    const id = await services.studies.permuted(view, { repetitions: 5, days: 4, seed: 9 });
    const [study] = await services.studies.of(view.id);
    expect(study.id).toBe(id);
    expect(await ended(services, study.job.id)).toBe("done");
    const [done] = await services.studies.of(view.id);
    expect(done.best.length).toBe(5);
    const space = laySpace(version.strategy, view.search).value!;
    const bars = await services.bars.all([settings.markets[0].bars]);
    expect(done.best[3]).toBe(bestByLuck(space, view, bars, { days: 4, seed: 9 }, 3));
    expect(new Set(done.best).size).toBeGreaterThan(1);
    // a swing of regular waves is found far better than anything in its days in another order
    const own = (await services.trials.best(view, ["netProfit"]))!.metrics.netProfit!;
    expect(reachedByLuck(done.best, own, "more")).toEqual({ count: 0, share: 1 / 6 });
    expect((await refusal(services.studies.permuted(view, { repetitions: 0, days: 4, seed: 9 }))).message).toContain("from 1 to");
    // the ledger counts looks at real bars only
    expect((await services.strategies.trialCounts()).get(version.strategyId)).toBe(24);
    await services.close();
  });

  it("sets the peak against the ledger as it is now, without computing the trials again", async () => {
    const { services, version, settings } = await prepared();
    const view = await finished(services, await services.optimizations.create(version, SEARCH, settings));
    const first = await services.lucks.of(view);
    expect(first.deflated).toMatchObject({ trials: 24, ledger: 24 });
    expect(first.deflated.line).toBe(first.deflated.own);
    const { points, correlation } = first.halves;
    expect(points.length).toBe(24);
    expect(Math.max(...points.map((point) => point.x))).toBe(100);
    expect(correlation).toBeGreaterThan(0);
    await services.strategies.countTries(version.strategyId, [{ hash: "a".repeat(64), from: null, to: null }]);
    const second = await services.lucks.of(view);
    expect(second.deflated.ledger).toBe(25);
    expect(second.deflated.line!).toBeLessThan(first.deflated.line!);
    expect(second.pbo).toBe(first.pbo);
    await services.close();
  });

  it("is refused while trials are missing", async () => {
    const { services, version, settings } = await prepared();
    const id = await services.optimizations.create(version, SEARCH, settings);
    const view = await finished(services, id);
    await services.db.update(jobs).set({ state: "cancelled" }).where(eq(jobs.id, view.job.id));
    const cancelled = (await services.optimizations.get(id))!;
    expect((await refusal(services.studies.permuted(cancelled, { repetitions: 5, days: 4, seed: 9 }))).message).toContain(
      "once they are there",
    );
    await services.close();
  });
});

describe("a finer test", () => {
  it("has the figures of backtests under the other run settings, and says why where they can't be had", async () => {
    const { services, version, settings } = await prepared();
    const view = await finished(services, await services.optimizations.create(version, SEARCH, settings));
    const { values } = (await services.trials.one(view, 5))!;
    const dear = { ...settings, costs: { ...settings.costs, percent: 0.5 } };
    const none = { ...settings, from: "2040-01-01" };
    const [first, second, third] = await services.trials.finer(view, [settings, dear, none], [{}, values]);
    const bars = await services.bars.all([settings.markets[0].bars]);
    const tried = withValues(version.strategy, values);
    expect(first.metrics).toEqual(
      [backtest(version.strategy, settings, bars), backtest(tried, settings, bars)].map(({ result }) => result!.metrics.all),
    );
    expect(second.metrics![1]).toEqual(backtest(tried, dear, bars).result!.metrics.all);
    expect(second.metrics![1].netProfit!).toBeLessThan(first.metrics![1].netProfit!);
    expect(third).toMatchObject({ metrics: null, why: expect.stringContaining("no bars") });
    const [asItStands, trial] = await services.trials.curvesOf(view, [{}, values]);
    expect(trial.at(-1)!.y).toBe(backtest(tried, settings, bars).result!.equity.equity.at(-1));
    expect(asItStands.at(-1)!.y).not.toBe(trial.at(-1)!.y);
    await services.close();
  });
});

describe("an exclusion list", () => {
  it("takes its markets out of the run settings, the benchmark with them, and is refused where it leaves none", async () => {
    const { services, market, settings } = await prepared();
    const other = await addMarket(services, newMarket("GARFISH"), csvText(400, "2015-02-01"));
    const both = { ...settings, markets: [settingsMarket(market), settingsMarket(other)] };
    const left = leaveOut(both, { name: "freak", symbols: ["ELVER", "MURK"] });
    expect(left.settings.markets.map(({ symbol }) => symbol)).toEqual(["GARFISH"]);
    expect(left.settings.benchmark).toBe("GARFISH");
    expect(left.without).toEqual({ list: "freak", symbols: ["ELVER"] });
    expect(leaveOut(both, null)).toEqual({ settings: both, without: null });
    expect(() => leaveOut(both, { name: "all", symbols: ["ELVER", "GARFISH"] })).toThrow("leaves none of ELVER, GARFISH");
    await services.close();
  });
});

describe("plans", () => {
  it("are stored by name, replaced under the same name, taken out and put back", async () => {
    const { services, version, settings } = await prepared();
    const document = { search: SEARCH as never, settings, share: "70", without: null };
    const id = await services.plans.save(version.strategyId, " coarse ", document);
    expect(await services.plans.save(version.strategyId, "coarse", { ...document, share: "50" })).toBe(id);
    expect((await services.plans.list(version.strategyId)).map(({ name, document: one }) => [name, one.share])).toEqual([["coarse", "50"]]);
    expect((await refusal(services.plans.save(version.strategyId, " ", document))).message).toContain("needs a name");
    await services.plans.remove(id);
    expect(await services.plans.list()).toEqual([]);
    await services.plans.restore(id);
    expect((await services.plans.get(id))!.document.settings).toEqual(settings);
    await services.close();
  });
});
