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

async function everything(services: Services, id: number) {
  const view = (await services.optimizations.get(id))!;
  const rows = [];
  for await (const part of services.trials.everything(view, 300)) rows.push(...part);
  return rows;
}

const ALL = { sort: "number", falling: false, filters: [], standing: "all" as const, columns: ["netProfit"] };

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
    const best = (await services.trials.best(view, []))!;
    expect(best.fit).toBe(Math.max(...rows.map((row) => row.fit ?? -Infinity)));
    expect((await services.strategies.trialCounts()).get(version.strategyId)).toBe(760);
    const down = await services.trials.page(view, { ...ALL, sort: "netProfit", falling: true }, 0, 20);
    for (let i = 1; i < 20; i++) expect(down.rows[i - 1].metrics.netProfit!).toBeGreaterThanOrEqual(down.rows[i].metrics.netProfit!);
    expect((await services.trials.map(view, "fast", "slow", "fit", { how: "best" })).cells.length).toBe(760);
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
      inlineExecutor(folder, ({ kind }) => (kind === "optimization" && ++ran > 2 ? ((broken = true), forever) : undefined)),
    );
    const { version, settings } = await prepared(folder, dying);
    const id = await dying.optimizations.create(version, SEARCH, settings);
    await dying.jobs.start();
    await until(async () => broken && (await dying.optimizations.get(id))!.job.done === 400);
    // not closed: the first server is simply gone
    const chunks: number[] = [];
    const services = await openTest(
      folder,
      inlineExecutor(folder, (chunk) => void (chunk.kind === "optimization" && chunks.push(chunk.chunk))),
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
        inlineExecutor(folder, ({ kind }) => (kind === "optimization" && ++ran > last ? forever : undefined)),
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
    expect(await services.trials.judged((await services.optimizations.get(id))!)).toBeNull();
    await services.jobs.start();
    await until(async () => (await services.optimizations.get(id))!.job.state === "done");
    const view = (await services.optimizations.get(id))!;
    const { judgement: judged, plateau } = (await services.trials.judged(view))!;
    const { search } = view;
    const bars = await services.bars.all(settings.markets.map((market) => market.bars));
    const whole = optimize(prepareSearch(version.strategy, settings, search, bars).value!);
    expect(judged.peak!.number).toBe(whole.best);
    expect(judged.recommended!.number).toBe(whole.recommended);
    expect([...plateau]).toEqual(whole.plateau);
    expect(judged.plateau).toBe(whole.plateau.length);
    expect(judged.recommended!.depth).toBe(whole.trials[whole.recommended!].depth);
    expect(judged.peak!.fragility).toBe(whole.trials[whole.best!].fragility);
    expect(judged.profiles.map(({ name }) => name)).toEqual(["fast", "slow"]);
    const { result } = backtest(version.strategy, settings, bars);
    expect(judged.baseline).toEqual(result!.metrics.all);
    const luck = await services.lucks.of(view);
    expect(luck.pbo).toBe(whole.pbo);
    expect(luck.deflated.own).toBeCloseTo(whole.deflatedSharpe!, 12);
    expect(luck.trials).toBe(760);
    expect(luck.histogram.reduce((sum, bin) => sum + bin.count, 0)).toBe(12_870);
    expect(await services.lucks.of(view)).toEqual(luck);
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
      inlineExecutor(folder, ({ kind }) =>
        kind === "optimization" && ++chunks === 3 ? new Promise<void>((resolve) => (held = resolve)) : undefined,
      ),
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

  it("give way to one of a higher priority, and go on afterwards with the same trials", async () => {
    const folder = emptyFolder();
    const order: number[] = [];
    let held: (() => void) | null = null;
    const services = await openTest(
      folder,
      inlineExecutor(folder, ({ kind, jobId }) => {
        if (kind !== "optimization") return;
        order.push(jobId);
        if (order.length === 2) return new Promise<void>((resolve) => (held = resolve));
      }),
    );
    const { version, settings } = await prepared(folder, services);
    const one = await services.optimizations.create(version, SEARCH, settings);
    await services.jobs.start();
    await until(() => Promise.resolve(held !== null));
    const two = await services.optimizations.create(version, { ...SEARCH, vary: [SEARCH.vary[0]] }, settings);
    const [first, second] = [(await services.optimizations.get(one))!.job.id, (await services.optimizations.get(two))!.job.id];
    await services.jobs.setPriority(second, 1);
    await new Promise((resolve) => setTimeout(resolve, 100));
    held!();
    await until(async () => (await services.optimizations.get(one))!.job.state === "done");
    expect((await services.optimizations.get(two))!.job.state).toBe("done");
    // the first's chunks at work are finished, then the second's only one, then the rest of the first
    const turn = order.indexOf(second);
    expect(turn).toBeGreaterThan(0);
    expect(order.slice(turn + 1)).toEqual(order.slice(turn + 1).map(() => first));
    expect(order.length).toBe(5);
    expect((await everything(services, one)).map(({ number }) => number)).toEqual(Array.from({ length: 760 }, (_, i) => i));
    await services.close();
  });

  it("use as many threads as they may, also when that changes while they run", async () => {
    const folder = emptyFolder();
    let [atWork, most] = [0, 0];
    const inner = inlineExecutor(folder);
    const services = await openTest(folder, {
      ...inner,
      width: 4,
      run: async (chunk, progress, signal) => {
        if (chunk.kind !== "optimization") return inner.run(chunk, progress, signal);
        most = Math.max(most, ++atWork);
        await new Promise((resolve) => setTimeout(resolve, 20));
        const output = await inner.run(chunk, progress, signal);
        atWork--;
        return output;
      },
    });
    const { version, settings } = await prepared(folder, services);
    const wide = { ...SEARCH, vary: [SEARCH.vary[0], { name: "slow", from: 21, to: 200, step: 1 }] };
    const id = await services.optimizations.create(version, wide, settings);
    const job = (await services.optimizations.get(id))!.job.id;
    await services.jobs.setThreads(job, 1);
    await services.jobs.start();
    await until(async () => (await services.optimizations.get(id))!.job.done >= 600);
    expect(most).toBe(1);
    await services.jobs.setThreads(job, 3);
    await until(() => Promise.resolve(most === 3));
    await until(async () => (await services.optimizations.get(id))!.job.state === "done");
    expect(most).toBe(3);
    expect((await services.jobs.progress([job]))[0].threads).toBe(3);
    await services.close();
  });

  it("count in the ledger what nobody tried before on the same data", async () => {
    const { services, version, settings } = await prepared(emptyFolder());
    await services.jobs.start();
    const spent = async () => (await services.strategies.trialCounts()).get(version.strategyId);
    const run = async (search: object, under = settings) => {
      const id = await services.optimizations.create(version, search, under);
      await until(async () => (await services.optimizations.get(id))!.job.state === "done");
    };
    await run(SEARCH);
    expect(await spent()).toBe(760);
    // the same again, and a part of it beside one new value of slow
    await run(SEARCH);
    expect(await spent()).toBe(760);
    await run({
      ...SEARCH,
      vary: [
        { name: "fast", values: [2, 3] },
        { name: "slow", values: [60, 61] },
      ],
    });
    expect(await spent()).toBe(762);
    await run(
      {
        ...SEARCH,
        vary: [
          { name: "fast", values: [2, 3] },
          { name: "slow", values: [60] },
        ],
      },
      { ...settings, to: "2015-12-01" },
    );
    expect(await spent()).toBe(764);
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
