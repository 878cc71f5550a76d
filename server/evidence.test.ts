import { describe, expect, it } from "vitest";
import { READY_MADE_CASCADES } from "#core/cascades";
import { probeUnits } from "./db/schema";
import { layerOf } from "./layers";
import { searchChoices } from "./search-choices";
import type { Services } from "./services";
import {
  addMarket,
  csvText,
  emptyFolder,
  ended,
  inlineExecutor,
  newMarket,
  openTest,
  refusal,
  runSettings,
  SWING,
} from "./testing/services";

const SHAKEN = { runs: 100, share: 30, criteria: { share: 10 } };

async function prepared(folder = emptyFolder(), executor = inlineExecutor(folder)) {
  const services = await openTest(folder, executor);
  const market = await addMarket(services, newMarket("ELVER"), csvText(700));
  const version = await services.strategies.create(SWING, "", runSettings(market));
  return { services, market, version, settings: runSettings(market) };
}

async function ran(services: Services, probe: number) {
  await services.probes.start(probe);
  const { job } = (await services.probes.get(probe))!;
  expect(await ended(services, job!.id)).toBe("done");
  return (await services.probes.get(probe))!;
}

describe("a probe", () => {
  it("runs as a job with progress, keeps nothing of its units, and counts as a trial", async () => {
    const { services, version, settings } = await prepared();
    await services.jobs.start();
    const id = await services.probes.create(version, "shakenParameters", SHAKEN, settings);
    const before = (await services.strategies.trialsOf(version.strategyId)).probes;
    const view = await ran(services, id);
    expect(view).toMatchObject({ state: "passed", why: null, overruled: null, earlier: [] });
    expect(view.job!.total).toBe(101);
    expect(view.outcome!.criteria[0].key).toBe("share");
    expect(await services.db.select().from(probeUnits)).toEqual([]);
    expect((await services.strategies.trialsOf(version.strategyId)).probes).toBe(before + 1);
    await services.close();
  });

  it("gives the same result in pieces, after sudden ends, as in one go", async () => {
    const whole = await prepared();
    const once = await whole.services.probes.create(whole.version, "shakenParameters", SHAKEN, whole.settings);
    await whole.services.probes.run(once);
    const { outcome } = (await whole.services.probes.get(once))!;
    await whole.services.close();
    const folder = emptyFolder();
    let computed = 0;
    const stopping = (after: number) =>
      inlineExecutor(folder, async (chunk) => {
        if (chunk.kind === "probe" && ++computed > after) await new Promise(() => {});
      });
    const first = await prepared(folder, stopping(5));
    const id = await first.services.probes.create(first.version, "shakenParameters", SHAKEN, first.settings);
    await first.services.jobs.start();
    await first.services.probes.start(id);
    const written = async () => (await first.services.db.select().from(probeUnits)).length;
    while ((await written()) < 5) await new Promise((resolve) => setTimeout(resolve, 10));
    // the first server never ends its chunk; another one opens the same folder, as after a crash
    const second = await openTest(folder);
    await second.jobs.start();
    const { job } = (await second.probes.get(id))!;
    expect(await ended(second, job!.id)).toBe("done");
    const view = (await second.probes.get(id))!;
    expect(view.outcome).toEqual(outcome);
    await second.close();
  });

  it("keeps every result that newer ones replaced", async () => {
    const { services, version, settings } = await prepared();
    const id = await services.probes.create(version, "outOfSample", { split: "2016-01-31", criteria: { trades: 1000 } }, settings);
    await services.probes.run(id);
    expect((await services.probes.get(id))!.state).toBe("failed");
    await services.probes.change(id, { split: "2016-01-31", criteria: { trades: 1 } });
    await services.probes.run(id);
    const view = (await services.probes.get(id))!;
    expect(view.state).toBe("passed");
    expect(view.earlier).toMatchObject([{ verdict: "failed", asked: { trades: 1000 } }]);
    await services.close();
  });

  it("is overruled with a reason and a name, which a newer result takes away and the state never loses", async () => {
    const { services, version, settings } = await prepared();
    const id = await services.probes.create(version, "outOfSample", { split: "2016-01-31", criteria: { trades: 1000 } }, settings);
    expect((await refusal(services.probes.overrule(id, "why not", "M."))).message).toContain("only a failure");
    await services.probes.run(id);
    expect((await refusal(services.probes.overrule(id, " ", ""))).problems.map((p) => p.path)).toEqual(["reason", "name"]);
    await services.probes.overrule(id, "too few dates to ask for so many", "M.");
    const view = (await services.probes.get(id))!;
    expect(view).toMatchObject({ state: "failed", overruled: { reason: "too few dates to ask for so many", name: "M." } });
    expect(layerOf(view)).toMatchObject({ state: "failed", overruled: true });
    await services.probes.change(id, { split: "2016-02-28", criteria: { trades: 1000 } });
    await services.probes.run(id);
    expect((await services.probes.get(id))!).toMatchObject({ state: "failed", overruled: null });
    await services.close();
  });

  it("is out of date once the version's costs are others, and says so", async () => {
    const { services, version, settings, market } = await prepared();
    const id = await services.probes.create(version, "shuffledTrades", { runs: 100, criteria: { ruin: 100 } }, settings);
    await services.probes.run(id);
    expect((await services.probes.get(id))!.state).toBe("passed");
    const dear = { ...runSettings(market), costs: { ...settings.costs, perOrder: 3 } };
    await services.runs.save(version, dear);
    expect((await services.probes.get(id))!).toMatchObject({ state: "out of date", why: "the version's costs have changed since" });
    await services.close();
  });

  it("says what is wrong, and what it costs, before it runs", async () => {
    const { services, version, settings } = await prepared();
    const cost = await services.probes.estimate(version, "shakenParameters", SHAKEN, settings);
    expect(cost).toMatchObject({ units: 101, unitName: "runs" });
    expect(cost.seconds).toBeGreaterThan(0);
    const path = async (kind: string, input: object) =>
      (await refusal(services.probes.estimate(version, kind, input, settings))).problems[0].path;
    expect(await path("otherMarkets", { markets: ["NOWHERE"], criteria: { held: 1 } })).toBe("markets");
    expect(await path("otherSources", { criteria: { drift: 1 } })).toBe("settings.markets");
    expect(
      await path("walkForward", {
        search: { vary: [{ name: "fast", values: [3, 4] }], objective: [{ metric: "netProfit" }] },
        windows: 200,
        outShare: 60,
        criteria: { net: 0 },
      }),
    ).toBe("windows");
    expect(await path("holdOut", { criteria: { trades: 1 } })).toBe("settings.markets");
    await services.close();
  });

  it("runs on other markets and sources as they are now", async () => {
    const { services, version, settings, market } = await prepared();
    await addMarket(services, newMarket("SMELT"), csvText(500, "2015-06-01"));
    await services.sources.add(
      market.id,
      "another",
      "1d",
      await services.bars.opened(market.barsHash).then((bars) => ({ ...bars, close: bars.close.map((x) => x + 0.01) })),
    );
    const other = await services.probes.create(
      version,
      "otherMarkets",
      { markets: ["SMELT"], factor: 0, least: 1, criteria: { held: 1 } },
      settings,
    );
    await services.probes.run(other);
    expect((await services.probes.get(other))!.outcome!.parts.map((part) => part.name)).toEqual(["the version", "SMELT"]);
    expect((await services.probes.get(other))!.state).toBe("passed");
    const [smelt] = (await services.markets.bySymbol("SMELT"))!.sources;
    await services.sources.decide(smelt.id, { key: "k", text: "a bar", times: [Date.parse("2015-07-02")] }, "leaveOut", "odd");
    expect(await services.probes.get(other)).toMatchObject({ state: "out of date", why: "the bars of SMELT have changed since" });
    const source = await services.probes.create(version, "otherSources", { criteria: { correlation: 0.5 } }, settings);
    await services.probes.run(source);
    expect((await services.probes.get(source))!.outcome!.parts.map((part) => part.name)).toEqual(["the version's source", "another"]);
    await services.close();
  });
});

describe("a seal", () => {
  const SEAL = "2016-09-01";

  it("cuts what every reader of bars is given, and is opened once a reason and a name are there, for good", async () => {
    const folder = emptyFolder();
    const services = await openTest(folder);
    const market = await addMarket(services, newMarket("ELVER"), csvText(700));
    const raw = market.barsHash;
    await services.seals.seal(market, SEAL);
    const sealed = (await services.markets.bySymbol("ELVER"))!;
    expect(sealed.lastTime).toBeLessThan(Date.parse(SEAL));
    expect((await refusal(services.bars.get(raw))).message).toContain("behind a seal");
    expect((await refusal(services.derived.get(raw, "1d", "1w", null))).message).toContain("behind a seal");
    const version = await services.strategies.create(SWING, "", runSettings(sealed));
    const id = await services.probes.create(version, "holdOut", { criteria: { trades: 1 } }, runSettings(sealed));
    expect(layerOf((await services.probes.get(id))!)).toMatchObject({ sealed: true, state: "untested" });
    expect((await refusal(services.probes.run(id))).problems.map((p) => p.path)).toEqual(["reason", "name"]);
    expect(await services.seals.openings()).toEqual([]);
    await services.jobs.start();
    await services.probes.start(id, { reason: "before money", name: "M." });
    const { job } = (await services.probes.get(id))!;
    expect(await ended(services, job!.id)).toBe("done");
    const view = (await services.probes.get(id))!;
    expect(view.outcome!.parts[1].from).toBe(SEAL);
    expect(view.outcome!.parts[1].to).toBe("2016-11-30");
    expect(await services.seals.openings()).toMatchObject([
      { symbol: "ELVER", version: { number: 1 }, from: SEAL, to: "2016-11-30", reason: "before money", name: "M." },
    ]);
    // it stays sealed for all others
    expect((await services.markets.bySymbol("ELVER"))!.lastTime).toBeLessThan(Date.parse(SEAL));
    await refusal(services.bars.get(raw));
    await services.close();
    const again = await openTest(folder);
    await refusal(again.bars.get(raw));
    await again.close();
  });

  it("holds for bars that come later, for corrections, and for further sources", async () => {
    const { services } = await prepared();
    const market = await addMarket(services, newMarket("SMELT"), csvText(500));
    await services.seals.seal(market, "2016-01-01");
    const [source] = (await services.markets.bySymbol("SMELT"))!.sources;
    await services.sources.decide(source.id, { key: "k", text: "a bar", times: [Date.parse("2015-03-02")] }, "leaveOut", "odd");
    const left = (await services.markets.bySymbol("SMELT"))!;
    expect(left.lastTime).toBe(Date.parse("2015-12-31"));
    expect(left.count).toBe(364);
    await services.sources.add(market.id, "another", "1d", await services.bars.opened(market.barsHash));
    for (const one of (await services.markets.bySymbol("SMELT"))!.sources) expect(one.lastTime).toBeLessThan(Date.parse("2016-01-01"));
    await services.close();
  });

  it("is refused where it makes no sense, and moves on to a later date only, on record", async () => {
    const { services, market, version, settings } = await prepared();
    const message = async (promise: Promise<unknown>) => (await refusal(promise)).message;
    expect(await message(services.seals.seal(market, "soon"))).toContain("must be a date");
    expect(await message(services.seals.seal(market, "2014-01-01"))).toContain("the bars begin on 2015-01-01");
    await services.runs.save(version, settings);
    expect(await message(services.seals.seal(market, SEAL))).toContain("results that are stored saw bars");
    const other = await addMarket(services, newMarket("SMELT"), csvText(690));
    await services.seals.seal(other, SEAL);
    const now = (await services.markets.bySymbol("SMELT"))!;
    expect(await message(services.seals.seal(now, "2016-08-01"))).toContain("can't be sealed any more");
    expect(await message(services.seals.seal(now, "2016-10-01"))).toContain("say why the seal is opened");
    await services.seals.seal(now, "2016-10-01", { reason: "a year is over", name: "M." });
    expect((await services.markets.bySymbol("SMELT"))!.lastTime).toBe(Date.parse("2016-09-30"));
    expect(await services.seals.openings(now.id)).toMatchObject([
      { version: null, from: SEAL, to: "2016-09-30", reason: "a year is over" },
    ]);
    await services.close();
  });
});

describe("a strategy's status", () => {
  it("moves by a reason, a name and evidence that holds", async () => {
    const { services, version, settings } = await prepared();
    const passed = await services.probes.create(version, "outOfSample", { split: "2016-01-31", criteria: { trades: 1 } }, settings);
    const failed = await services.probes.create(version, "outOfSample", { split: "2016-01-31", criteria: { trades: 1000 } }, settings);
    const problems = async (after: string, ids: number[]) =>
      (await refusal(services.statusMoves.move(version, after, "it held", "M.", ids))).problems.map((p) => p.message);
    expect(await problems("candidate", [])).toEqual(["name at least one layer of evidence that “candidate” rests on"]);
    expect(await problems("candidate", [passed])).toEqual(["Out-of-sample is untested; nothing can rest on it"]);
    expect(await problems("famous", [])).toEqual(["status must be one of draft, candidate, survivor, forward test, retired"]);
    expect((await refusal(services.statusMoves.move(version, "retired", "", " ", []))).problems.map((p) => p.path)).toEqual([
      "reason",
      "name",
    ]);
    await services.probes.run(passed);
    await services.probes.run(failed);
    expect(await problems("candidate", [passed, failed])).toEqual([
      "Out-of-sample failed; overrule it with a reason first, or leave it out",
    ]);
    await services.probes.overrule(failed, "asked too much", "M.");
    await services.statusMoves.move(version, "candidate", "it held", "M.", [passed, failed]);
    expect(await services.statusMoves.of(version.strategyId)).toMatchObject([
      {
        before: "draft",
        after: "candidate",
        reason: "it held",
        name: "M.",
        evidence: [{ state: "passed" }, { state: "failed", overruled: true }],
      },
    ]);
    expect((await services.strategies.version(version.id))!.status).toBe("candidate");
    await services.close();
  });
});

describe("a cascade", () => {
  const stage = (trades: number) => ({ probe: "outOfSample", input: { split: "60%", criteria: { trades } } });

  it("sends versions through stage by stage, and tells what stopped which", async () => {
    const { services, market, version } = await prepared();
    expect((await services.cascades.list()).map((one) => one.document.name)).toEqual(READY_MADE_CASCADES.map((one) => one.name));
    const idle = await services.strategies.create(
      { ...SWING, name: "Never", long: { enter: { when: "close > 1000" } }, short: null },
      "",
      runSettings(market),
    );
    const lost = await services.strategies.create({ ...SWING, name: "Nowhere" }, "", null);
    const id = await services.cascades.create({
      format: "canyon.cascade/1",
      name: "Two",
      stages: [stage(1), { probe: "shuffledTrades", input: { runs: 100, criteria: { ruin: 100 } } }],
    });
    await services.jobs.start();
    const run = await services.cascades.run(id, [version.id, idle.id, lost.id]);
    let view = (await services.cascades.getRun(run))!;
    while (!view.done) {
      await new Promise((resolve) => setTimeout(resolve, 20));
      view = (await services.cascades.getRun(run))!;
    }
    expect(view.courses.map(({ end }) => end)).toEqual(["through", "stopped", "stopped"]);
    expect(view.courses[2].stuck!.message).toContain("run it once");
    expect(view.funnel).toEqual([
      {
        name: "Out-of-sample",
        entered: 3,
        came: 1,
        open: 0,
        stoppedBy: [
          { label: "Closed trades", count: 1 },
          { label: "could not be asked", count: 1 },
        ],
      },
      { name: "Trades shuffled", entered: 1, came: 1, open: 0, stoppedBy: [] },
    ]);
    // the probes are layers of the versions' evidence like any other
    expect((await services.probes.ofVersion(version.id)).map((probe) => [probe.name, probe.state])).toEqual([
      ["Out-of-sample", "passed"],
      ["Trades shuffled", "passed"],
    ]);
    await services.close();
  });

  it("goes on after the server was gone, and can be stopped", async () => {
    const folder = emptyFolder();
    const first = await prepared(
      folder,
      inlineExecutor(folder, (chunk) => (chunk.kind === "probe" ? new Promise(() => {}) : undefined)),
    );
    const id = await first.services.cascades.create({
      format: "canyon.cascade/1",
      name: "One after the other",
      stages: [stage(1), stage(2)],
    });
    await first.services.jobs.start();
    const run = await first.services.cascades.run(id, [first.version.id]);
    const second = await openTest(folder);
    await second.jobs.start();
    let view = (await second.cascades.getRun(run))!;
    while (!view.done) {
      await new Promise((resolve) => setTimeout(resolve, 20));
      view = (await second.cascades.getRun(run))!;
    }
    expect(view.courses[0]).toMatchObject({ end: "through", probes: [{ stage: 0 }, { stage: 1 }] });
    await second.close();
    const third = await openTest(folder);
    const stopped = await third.cascades.run(id, [first.version.id]);
    await third.cascades.stop(stopped);
    expect((await third.cascades.getRun(stopped))!).toMatchObject({
      done: true,
      courses: [{ end: "stopped" }],
      funnel: [{ stoppedBy: [{ label: "cancelled" }] }, { entered: 0 }],
    });
    await third.close();
  });

  it("is refused with the place of what is wrong, and keeps the stages that a run began with", async () => {
    const { services, version } = await prepared();
    const refused = await refusal(
      services.cascades.create({ format: "canyon.cascade/1", name: "Odd", stages: [{ probe: "luck", input: { criteria: {} } }] }),
    );
    expect(refused.problems[0].path).toBe("stages[0].probe");
    const id = await services.cascades.create({ format: "canyon.cascade/1", name: "One", stages: [stage(1)] });
    expect((await refusal(services.cascades.run(id, []))).problems[0].path).toBe("versions");
    const run = await services.cascades.run(id, [version.id]);
    await services.cascades.change(id, { format: "canyon.cascade/1", name: "One", stages: [stage(5), stage(6)] });
    expect((await services.cascades.getRun(run))!.document.stages).toEqual([stage(1)]);
    await services.cascades.remove(id);
    expect(await services.cascades.get(id)).toBe(null);
    await services.cascades.restore(id);
    expect((await services.cascades.get(id))!.document.stages.length).toBe(2);
    await services.close();
  });
});

describe("the ledger", () => {
  it("tells every trial by what spent it, and how often each year was looked at", async () => {
    const { services, version, settings } = await prepared();
    await services.strategies.countTries(version.strategyId, [
      { hash: "a", from: null, to: null },
      { hash: "b", from: "2016-01-01", to: null, markets: "ELVER" },
      { hash: "c", from: null, to: null, markets: "SMELT,OTTER" },
    ]);
    await services.runs.save(version, { ...settings, to: "2015-12-31" });
    const probe = await services.probes.create(version, "outOfSample", { split: "2016-01-31", criteria: { trades: 1 } }, settings);
    await services.probes.run(probe);
    const spent = await services.ledgers.ofStrategy(version.strategyId);
    expect(spent.map(({ what, count }) => [what, count]).sort()).toEqual([
      ["change by hand", 1],
      ["change by hand", 1],
      ["change by hand", 1],
      ["probe", 1],
      ["run", 1],
    ]);
    expect(await services.ledgers.ofData("ELVER", 2015, 2016)).toEqual([
      { year: 2015, trials: 3, strategies: 1 },
      { year: 2016, trials: 3, strategies: 1 },
    ]);
    // of the first try it was not written down where it ran
    expect((await services.ledgers.ofData("OTTER", 2015, 2015))[0].trials).toBe(2);
    expect(spent.find((one) => one.what === "probe")!.markets).toBe("ELVER");
    await services.close();
  });
});

describe("searches that a probe may repeat", () => {
  it("are those of the line that still fit, and the parameters' own ranges", async () => {
    const { services, version, settings } = await prepared();
    const ranged = { ...version.strategy, parameters: [{ name: "fast", kind: "whole" as const, value: 5, min: 2, max: 8, step: 2 }] };
    expect(searchChoices(ranged, []).map((one) => one.label)).toEqual(["the ranges of its parameters: fast 2 to 8 by 2"]);
    const id = await services.optimizations.create(
      version,
      { vary: [{ name: "fast", from: 2, to: 4, step: 1 }], objective: [{ metric: "netProfit" }], limits: [] },
      settings,
    );
    const [view] = await services.optimizations.list(version.strategyId);
    expect(view.id).toBe(id);
    expect(searchChoices(version.strategy, [view])[0].label).toContain("as in optimization 1 of version 1: fast 2 to 4 by 1");
    expect(searchChoices({ ...version.strategy, parameters: [], definitions: [] }, [view])).toEqual([]);
    await services.close();
  });
});
