import { describe, expect, it } from "vitest";
import { METRIC_KEYS } from "#core/metrics";
import { fitsOf, metricsRecord, optimize, prepareSearch, runSearch } from "#core/optimize";
import { backtest } from "#core/runs";
import { addMarket, csvText, emptyFolder, inlineExecutor, newMarket, openTest, runSettings, SWING } from "../testing/services";
import { Refused } from "../problem";
import type { Services } from "../services";

const SEARCH = {
  vary: [
    { name: "fast", from: 2, to: 20, step: 1 },
    { name: "slow", from: 21, to: 60, step: 1 },
  ],
  objective: [{ metric: "profitToDrawdown" }],
  limits: [{ metric: "trades", least: 2 }],
};

async function prepared(folder: string, services?: Services) {
  const own = services ?? (await openTest(folder));
  const market = await addMarket(own, newMarket("ELVER"), csvText(400));
  const version = await own.strategies.create(SWING, "", null);
  return { services: own, version, settings: runSettings(market) };
}

async function until(check: () => Promise<boolean>): Promise<void> {
  for (let i = 0; i < 2000; i++) {
    if (await check()) return;
    await new Promise((resolve) => setTimeout(resolve, 10));
  }
  throw new Error("waited too long");
}

const everything = async (services: Services, id: number) => (await services.optimizations.trials(id, "number", false, 0, 10_000)).rows;

describe("jobs", () => {
  it("run an optimization to its end, trial by trial in the database", async () => {
    const { services, version, settings } = await prepared(emptyFolder());
    const id = await services.optimizations.create(version, SEARCH, settings);
    await services.jobs.start();
    await until(async () => (await services.optimizations.get(id))!.job.state === "done");
    const view = (await services.optimizations.get(id))!;
    expect(view.job).toMatchObject({ done: 760, total: 760, error: null });
    const rows = await everything(services, id);
    expect(rows.map((row) => row.number)).toEqual(Array.from({ length: 760 }, (_, i) => i));
    const best = (await services.optimizations.best(id))!;
    expect(best.fit).toBe(Math.max(...rows.map((row) => row.fit ?? -Infinity)));
    expect((await services.strategies.trialCounts()).get(version.strategyId)).toBe(760);
    const down = await services.optimizations.trials(id, "netProfit", true, 0, 20);
    for (let i = 1; i < 20; i++) expect(down.rows[i - 1].metrics.netProfit!).toBeGreaterThanOrEqual(down.rows[i].metrics.netProfit!);
    expect((await services.optimizations.map(id, "fast", "slow", "fit")).length).toBe(760);
    await services.close();
  });

  it("go on after a sudden end from the last finished chunk, with the same trials as if nothing had happened", async () => {
    const whole = await prepared(emptyFolder());
    const reference = await whole.services.optimizations.create(whole.version, SEARCH, whole.settings);
    await whole.services.jobs.start();
    await until(async () => (await whole.services.optimizations.get(reference))!.job.state === "done");
    const wanted = await everything(whole.services, reference);
    await whole.services.close();

    const folder = emptyFolder();
    let ran = 0;
    let broken = false;
    const forever = new Promise<void>(() => {});
    // the third chunk never comes back, as when the power goes
    const dying = await openTest(
      folder,
      inlineExecutor(folder, () => (++ran > 2 ? ((broken = true), forever) : undefined)),
    );
    const { version, settings } = await prepared(folder, dying);
    const id = await dying.optimizations.create(version, SEARCH, settings);
    await dying.jobs.start();
    await until(async () => broken && (await dying.optimizations.get(id))!.job.done === 400);
    // not closed: the first server is simply gone
    const chunks: number[] = [];
    const services = await openTest(
      folder,
      inlineExecutor(folder, (chunk) => void chunks.push(chunk.chunk)),
    );
    expect((await services.optimizations.get(id))!.job.state).toBe("running");
    await services.jobs.start();
    await until(async () => (await services.optimizations.get(id))!.job.state === "done");
    expect(chunks).toEqual([2, 3]);
    expect(await everything(services, id)).toEqual(wanted);
    expect((await services.strategies.trialCounts()).get(version.strategyId)).toBe(760);
    await services.close();
  });

  const EVOLUTION = { ...SEARCH, method: { kind: "evolution", population: 30, generations: 6, seed: 3 } };

  it("that search in rounds make the trials that the core makes, by every method", async () => {
    const { services, version, settings } = await prepared(emptyFolder());
    await services.jobs.start();
    const bars = await services.bars.all(settings.markets.map((market) => market.bars));
    for (const method of [
      EVOLUTION.method,
      { kind: "random", trials: 90, seed: 2 },
      { kind: "sobol", trials: 40 },
      { kind: "refine", coarse: 6 },
    ]) {
      const given = { ...SEARCH, method };
      const id = await services.optimizations.create(version, given, settings);
      await until(async () => (await services.optimizations.get(id))!.job.state === "done");
      const { search } = (await services.optimizations.get(id))!;
      const { trials } = runSearch(prepareSearch(version.strategy, settings, search, bars).value!);
      const rows = await everything(services, id);
      expect(rows.map(({ number, values }) => [number, values])).toEqual(trials.map(({ number, values }) => [number, values]));
      expect(rows.map(({ metrics }) => metrics)).toEqual(trials.map(({ metrics }) => metricsRecord(metrics)));
      expect((await services.optimizations.get(id))!.job).toMatchObject({ done: trials.length, total: trials.length });
    }
    await services.close();
  });

  it("that search in rounds go on after a sudden end with the same trials, wherever it comes", async () => {
    const whole = await prepared(emptyFolder());
    const reference = await whole.services.optimizations.create(whole.version, EVOLUTION, whole.settings);
    await whole.services.jobs.start();
    await until(async () => (await whole.services.optimizations.get(reference))!.job.state === "done");
    const wanted = await everything(whole.services, reference);
    await whole.services.close();
    const forever = new Promise<void>(() => {});
    for (const last of [1, 2, 4]) {
      const folder = emptyFolder();
      let ran = 0;
      const dying = await openTest(
        folder,
        inlineExecutor(folder, () => (++ran > last ? forever : undefined)),
      );
      const { version, settings } = await prepared(folder, dying);
      const id = await dying.optimizations.create(version, EVOLUTION, settings);
      await dying.jobs.start();
      await until(() => Promise.resolve(ran > last));
      const services = await openTest(folder);
      await services.jobs.start();
      await until(async () => (await services.optimizations.get(id))!.job.state === "done");
      expect(await everything(services, id)).toEqual(wanted);
      expect((await services.strategies.trialCounts()).get(version.strategyId)).toBe(wanted.length);
      await services.close();
    }
  });

  it("rank by several objectives once all trials are there", async () => {
    const { services, version, settings } = await prepared(emptyFolder());
    const objective = [
      { metric: "netProfit", weight: 2 },
      { metric: "maxDrawdownPercent", want: "less" },
    ];
    const id = await services.optimizations.create(version, { ...SEARCH, objective }, settings);
    await services.jobs.start();
    await until(async () => (await services.optimizations.get(id))!.job.state === "done");
    const rows = await everything(services, id);
    const { search } = (await services.optimizations.get(id))!;
    const figures = rows.map(({ metrics }) => Float64Array.from(METRIC_KEYS, (key) => metrics[key] ?? NaN));
    expect(rows.map(({ fit }) => fit)).toEqual(fitsOf(figures, search.objective, search.limits));
    expect(Math.max(...rows.map(({ fit }) => fit ?? 0))).toBeGreaterThan(60);
    await services.close();
  });

  it("are judged: the peak, the deepest trial of the plateau, the version as it stands, and what each name does", async () => {
    const { services, version, settings } = await prepared(emptyFolder());
    const id = await services.optimizations.create(version, SEARCH, settings);
    expect(await services.optimizations.judged(id)).toBeNull();
    await services.jobs.start();
    await until(async () => (await services.optimizations.get(id))!.job.state === "done");
    const judged = (await services.optimizations.judged(id))!;
    const { search } = (await services.optimizations.get(id))!;
    const bars = await services.bars.all(settings.markets.map((market) => market.bars));
    const whole = optimize(prepareSearch(version.strategy, settings, search, bars).value!);
    expect(judged.peak!.number).toBe(whole.best);
    expect(judged.recommended!.number).toBe(whole.recommended);
    expect(judged.plateau).toEqual(whole.plateau);
    expect(judged.recommended!.depth).toBe(whole.trials[whole.recommended!].depth);
    expect(judged.peak!.fragility).toBe(whole.trials[whole.best!].fragility);
    expect(judged.profiles.map(({ name }) => name)).toEqual(["fast", "slow"]);
    const { result } = backtest(version.strategy, settings, bars);
    expect(judged.baseline).toEqual(result!.metrics.all);
    const luck = await services.optimizations.luck(id);
    expect(luck.pbo).toBe(whole.pbo);
    expect(luck.trials).toBe(760);
    expect(luck.histogram.reduce((sum, bin) => sum + bin.count, 0)).toBe(12_870);
    expect(await services.optimizations.luck(id)).toEqual(luck);
    await services.close();
  });

  it("can be cancelled; what is finished stays, and the next job begins", async () => {
    const folder = emptyFolder();
    let release = () => {};
    const gate = new Promise<void>((resolve) => (release = resolve));
    let first = true;
    const services = await openTest(
      folder,
      inlineExecutor(folder, async (chunk) => {
        if (chunk.chunk === 1 && first) {
          first = false;
          await gate;
        }
      }),
    );
    const { version, settings } = await prepared(folder, services);
    const one = await services.optimizations.create(version, SEARCH, settings);
    const two = await services.optimizations.create(version, { ...SEARCH, vary: [SEARCH.vary[0]] }, settings);
    await services.jobs.start();
    await until(async () => (await services.optimizations.get(one))!.job.done >= 200);
    expect((await services.jobs.progress()).map((job) => job.state)).toEqual(["running", "queued"]);
    const cancelled = services.jobs.cancel((await services.optimizations.get(one))!.job.id);
    await new Promise((resolve) => setTimeout(resolve, 200));
    release();
    await cancelled;
    expect((await services.optimizations.get(one))!.job.state).toBe("cancelled");
    await until(async () => (await services.optimizations.get(two))!.job.state === "done");
    const kept = await everything(services, one);
    expect(kept.length).toBe((await services.optimizations.get(one))!.job.done);
    expect(kept.length).toBeLessThan(760);
    await services.jobs.cancel((await services.optimizations.get(two))!.job.id);
    expect((await services.optimizations.get(two))!.job.state).toBe("done");
    await services.close();
  });

  it("can be paused and resumed, in rounds, too, with the same trials as in one go; what waits goes first", async () => {
    const folder = emptyFolder();
    let held: (() => void) | null = null;
    let chunks = 0;
    const services = await openTest(
      folder,
      inlineExecutor(folder, () => (++chunks === 3 ? new Promise<void>((resolve) => (held = resolve)) : undefined)),
    );
    const { version, settings } = await prepared(folder, services);
    const id = await services.optimizations.create(version, EVOLUTION, settings);
    const job = (await services.optimizations.get(id))!.job.id;
    const other = await services.optimizations.create(version, { ...SEARCH, vary: [SEARCH.vary[0]] }, settings);
    await services.jobs.start();
    await until(() => Promise.resolve(held !== null));
    const paused = services.jobs.pause(job);
    held!();
    await paused;
    const { state, done } = (await services.optimizations.get(id))!.job;
    expect(state).toBe("paused");
    expect(done).toBe((await everything(services, id)).length);
    await until(async () => (await services.optimizations.get(other))!.job.state === "done");
    expect((await services.optimizations.get(id))!.job.state).toBe("paused");
    expect((await services.jobs.progress()).map((one) => one.id)).toContain(job);
    await services.jobs.resume(job);
    await until(async () => (await services.optimizations.get(id))!.job.state === "done");
    const { search } = (await services.optimizations.get(id))!;
    const bars = await services.bars.all(settings.markets.map((market) => market.bars));
    const { trials } = runSearch(prepareSearch(version.strategy, settings, search, bars).value!);
    expect((await everything(services, id)).map(({ values }) => values)).toEqual(trials.map(({ values }) => values));
    // what is over is neither paused nor resumed
    await services.jobs.pause(job);
    await services.jobs.resume(job);
    expect((await services.optimizations.get(id))!.job.state).toBe("done");
    await services.close();
  });

  it("that fail say why, and do not stop the others", async () => {
    const folder = emptyFolder();
    const services = await openTest(
      folder,
      inlineExecutor(folder, (chunk) => {
        if (chunk.jobId === 1) throw new Error("the disk is full");
      }),
    );
    const { version, settings } = await prepared(folder, services);
    const one = await services.optimizations.create(version, SEARCH, settings);
    const two = await services.optimizations.create(version, { ...SEARCH, vary: [SEARCH.vary[0]] }, settings);
    await services.jobs.start();
    await until(async () => (await services.optimizations.get(two))!.job.state === "done");
    expect((await services.optimizations.get(one))!.job).toMatchObject({ state: "failed", error: "the disk is full", done: 0 });
    await services.close();
  });

  it("tell how long they will take from some of their trials, and count none of these", async () => {
    const { services, version, settings } = await prepared(emptyFolder());
    const { trials, seconds } = await services.optimizations.measure(version, SEARCH, settings);
    expect(trials).toBe(760);
    expect(seconds).toBeGreaterThan(0);
    expect((await services.strategies.trialCounts()).get(version.strategyId) ?? 0).toBe(0);
    expect(await services.optimizations.list()).toEqual([]);
    await services.close();
  });

  it("are refused before anything is stored, with what is wrong", async () => {
    const { services, version, settings } = await prepared(emptyFolder());
    const refused = async (search: object, other: unknown = settings) => {
      const error = await services.optimizations.create(version, search, other).catch((e: unknown) => e);
      expect(error).toBeInstanceOf(Refused);
      return (error as Refused).message;
    };
    expect(await refused({ ...SEARCH, vary: [{ name: "fast", from: 5, to: 2, step: 1 }] })).toContain("empty");
    expect(await refused({ ...SEARCH, vary: [{ name: "fast", from: 2, to: 5, step: 0 }] })).toContain("step");
    expect(await refused({ ...SEARCH, vary: SEARCH.vary.map((v) => ({ ...v, from: 1, to: 1_000_000 })) })).toContain(
      "1,000,000,000,000 combinations",
    );
    expect(await refused(SEARCH, { ...settings, from: "2040-01-01" })).toContain("no bars");
    expect(await services.optimizations.list()).toEqual([]);
    expect(await services.jobs.progress()).toEqual([]);
    await services.close();
  });
});
