import { describe, expect, it } from "vitest";
import { hashBars, readBarsCsv } from "#core/bars";
import { NO_COSTS } from "#core/documents";
import { resultOf } from "#core/runs";
import { loadBars, outlineOf, storeBars } from "./bar-store";
import { Refused } from "./problem";
import { addMarket, csvText, emptyFolder, newMarket, openTest, runSettings, SWING, refusal } from "./testing/services";

describe("markets", () => {
  it("refuse what is no market, by field, and store nothing of it", async () => {
    const services = await openTest(emptyFolder());
    const wrong = { ...newMarket("9X"), name: " ", kind: "fish", currency: "skerry", tick: 0, pointValue: NaN, source: "" };
    const { problems } = await refusal(addMarket(services, wrong, csvText(50)));
    expect(problems.map((p) => p.path).sort()).toEqual(["currency", "kind", "name", "pointValue", "source", "symbol", "tick"]);
    expect((await refusal(addMarket(services, newMarket("X"), csvText(1)))).message).toContain("fewer than two bars");
    expect(await services.markets.list()).toEqual([]);
    await addMarket(services, newMarket("X"), csvText(50));
    expect((await refusal(addMarket(services, newMarket("X"), csvText(60)))).problems[0].path).toBe("symbol");
    await services.close();
  });

  it("change what is said of them, and say what is wrong by field", async () => {
    const services = await openTest(emptyFolder());
    await addMarket(services, newMarket("ELVER"), csvText(50));
    const calendar = await services.calendars.create("Quay", {
      zone: "Europe/Copenhagen",
      open: "09:00",
      close: "17:30",
      days: [1, 2, 3, 4, 5],
    });
    const given = {
      ...newMarket("ELVER"),
      name: "Elver glass",
      tick: 0.25,
      unitStep: 2,
      margin: { mode: "perUnit" as const, value: 900 },
      calendarId: calendar,
    };
    await services.markets.update("ELVER", given);
    const market = await services.markets.need("ELVER");
    expect(market).toMatchObject({
      name: "Elver glass",
      calendarId: calendar,
      spec: { tick: 0.25, unitStep: 2, minUnits: 2, session: { open: "09:00" } },
    });
    const { problems } = await refusal(services.markets.update("ELVER", { ...given, tick: -1, costs: { ...NO_COSTS, perUnit: -2 } }));
    expect(problems.map((p) => p.path).sort()).toEqual(["costs.perUnit", "tick"]);
    await services.calendars.update(calendar, "Quay", {
      zone: "Europe/Copenhagen",
      open: "08:00",
      close: "16:00",
      days: [1, 2],
      holidays: ["2024-12-24"],
    });
    expect((await services.markets.need("ELVER")).spec.session).toMatchObject({ open: "08:00", holidays: ["2024-12-24"] });
    expect((await refusal(services.calendars.remove(calendar))).message).toContain("ELVER still follow");
    expect(
      (await refusal(services.calendars.update(calendar, "Quay", { zone: "Mars", open: "8", close: "16:00", days: [] }))).problems.length,
    ).toBeGreaterThan(2);
    await services.close();
  });

  it("can be taken out and brought back; what rests on them stays", async () => {
    const services = await openTest(emptyFolder());
    const market = await addMarket(services, newMarket("ELVER"), csvText(300));
    const version = await services.strategies.create(SWING, "", null);
    const run = await services.runs.save(version, runSettings(market));
    await services.markets.remove("ELVER");
    expect(await services.markets.list()).toEqual([]);
    expect((await (await services.runs.get(run))!.result.trades()).length).toBeGreaterThan(5);
    expect((await services.runs.recompute(run))!.same).toBe(true);
    await addMarket(services, newMarket("ELVER"), csvText(100));
    expect((await refusal(services.markets.restore(market.id))).message).toContain("by now");
    await services.markets.remove("ELVER");
    expect(await services.markets.restore(market.id)).toBe("ELVER");
    expect((await services.markets.bySymbol("ELVER"))!.count).toBe(300);
    await services.close();
  });

  it("keep bars as compressed chunks that come back to the last bit, however many", async () => {
    const services = await openTest(emptyFolder());
    const lines = csvText(2).split("\n").slice(0, 1);
    for (let i = 0; i < 70_000; i++) lines.push(`${new Date(i * 60_000).toISOString()},1,2,0.5,${1 + (i % 7) / 8},${i}`);
    const { bars } = readBarsCsv(lines.join("\n"));
    const { hash, statements } = await storeBars(services.db, bars);
    expect(statements.length).toBe(3);
    expect(hash).toBe(hashBars(bars));
    const [first, ...rest] = statements;
    await services.db.batch([first, ...rest]);
    expect((await storeBars(services.db, bars)).statements.length).toBe(1);
    expect(hashBars((await loadBars(services.db, hash))!)).toBe(hash);
    expect(await loadBars(services.db, "0".repeat(64))).toBe(null);
    expect(outlineOf(bars.close).length).toBe(100);
    await services.close();
  });
});

describe("strategies", () => {
  it("are saved as versions, and refused with the place of what is wrong", async () => {
    const services = await openTest(emptyFolder());
    const first = await services.strategies.create(SWING, "", null);
    const second = await services.strategies.save(first.strategyId, 1, { ...SWING, name: "Swing wide" }, "", null);
    expect([first.number, second.number, second.strategyName]).toEqual([1, 2, "Swing wide"]);
    expect(first.hash).toBe(second.hash);
    const wrong = await refusal(services.strategies.create({ ...SWING, long: { enter: { when: "close > smaa(close, 3)" } } }, "", null));
    expect(wrong.problems[0]).toMatchObject({ path: "long.enter.when", message: expect.stringContaining("line 1, column 9") });
    expect((await refusal(services.strategies.create({ ...SWING, name: "" }, "", null))).problems[0].path).toBe("name");
    expect((await refusal(services.strategies.create({ ...SWING, long: null }, "", null))).message).toContain("never enters");
    expect((await services.strategies.newest()).length).toBe(1);
    await services.close();
  });

  it("saved in two windows at once: the second is told, and nothing is lost", async () => {
    const services = await openTest(emptyFolder());
    const { strategyId } = await services.strategies.create(SWING, "", null);
    const change = (value: number) => ({ ...SWING, sizing: { mode: "equityPercent", value } });
    const outcomes = await Promise.allSettled([
      services.strategies.save(strategyId, 1, change(10), "", null),
      services.strategies.save(strategyId, 1, change(20), "", null),
    ]);
    expect(outcomes.filter((o) => o.status === "fulfilled").length).toBe(1);
    const lost = outcomes.find((o): o is PromiseRejectedResult => o.status === "rejected")!;
    expect(lost.reason).toBeInstanceOf(Refused);
    expect((lost.reason as Refused).status).toBe(409);
    expect((await services.strategies.versionsOf(strategyId)).map((v) => v.number)).toEqual([1, 2]);
    await services.strategies.save(strategyId, 1, change(30), "", null, true);
    expect((await services.strategies.versionsOf(strategyId)).map((v) => v.number)).toEqual([1, 2, 3]);
    await services.close();
  });

  it("have a status, can be taken out and brought back", async () => {
    const services = await openTest(emptyFolder());
    const { strategyId } = await services.strategies.create(SWING, "", null);
    await services.strategies.setStatus(strategyId, "survivor");
    expect((await services.strategies.newest())[0].status).toBe("survivor");
    await refusal(services.strategies.setStatus(strategyId, "famous"));
    await services.strategies.remove(strategyId);
    expect(await services.strategies.newest()).toEqual([]);
    await services.strategies.restore(strategyId);
    expect((await services.strategies.newest()).length).toBe(1);
    await services.close();
  });
});

describe("runs", () => {
  it("are stored once per fingerprint, counted, and computed again to the last bit", async () => {
    const services = await openTest(emptyFolder());
    const market = await addMarket(services, newMarket("ELVER"), csvText(300));
    const version = await services.strategies.create(SWING, "", null);
    const id = await services.runs.save(version, runSettings(market));
    expect(await services.runs.save(version, runSettings(market))).toBe(id);
    const other = await services.runs.save(version, runSettings(market, { capital: 50_000 }));
    const stored = (await services.runs.get(id))!;
    expect(stored.summary.fingerprint).toMatch(/^[0-9a-f]{64}$/);
    expect(stored.summary.fingerprint).not.toBe((await services.runs.get(other))!.summary.fingerprint);
    expect(await services.runs.recompute(id)).toMatchObject({ same: true, firstTrade: null, metrics: [] });
    expect((await services.strategies.trialCounts()).get(version.strategyId)).toBe(2);
    expect(await services.runs.get(999)).toBe(null);
    await services.close();
  });

  it("refuse a window without bars", async () => {
    const services = await openTest(emptyFolder());
    const market = await addMarket(services, newMarket("ELVER"), csvText(300));
    const version = await services.strategies.create(SWING, "", null);
    const { problems } = await refusal(services.runs.save(version, runSettings(market, { from: "2040-01-01" })));
    expect(problems[0]).toMatchObject({ path: "settings.from", message: expect.stringContaining("ELVER has bars from 2015-01-01") });
    await services.close();
  });
});

describe("probes", () => {
  it("keep criteria apart from results: changed afterwards, the result is out of date", async () => {
    const services = await openTest(emptyFolder());
    const market = await addMarket(services, newMarket("ELVER"), csvText(900));
    const version = await services.strategies.create(SWING, "", null);
    const input = (trades: number) => ({ split: "2016-06-30", criteria: { trades } });
    const id = await services.probes.create(version, "outOfSample", input(3), runSettings(market));
    expect((await services.probes.get(id))!.state).toBe("untested");
    await services.probes.run(id);
    expect((await services.probes.get(id))!.state).toBe("passed");
    await services.probes.change(id, input(3));
    expect((await services.probes.get(id))!.state).toBe("passed");
    await services.probes.change(id, input(10_000));
    expect(await services.probes.get(id)).toMatchObject({ state: "out of date", why: expect.stringContaining("changed after it ran") });
    await services.probes.run(id);
    expect((await services.probes.get(id))!.state).toBe("failed");
    expect((await refusal(services.probes.remove(id))).message).toContain("stays in the evidence");
    expect((await services.probes.layers()).get(version.id)).toMatchObject([{ name: "Out-of-sample", state: "failed" }]);
    await services.close();
  });

  it("are out of date when the market is gone or its bars are others", async () => {
    const services = await openTest(emptyFolder());
    const market = await addMarket(services, newMarket("ELVER"), csvText(900));
    const version = await services.strategies.create(SWING, "", null);
    const id = await services.probes.create(version, "outOfSample", { split: "2016-06-30", criteria: { trades: 3 } }, runSettings(market));
    await services.probes.run(id);
    await services.markets.remove("ELVER");
    expect(await services.probes.get(id)).toMatchObject({ state: "out of date", why: expect.stringContaining("was deleted") });
    expect((await refusal(services.probes.run(id))).message).toContain("bring it back");
    await addMarket(services, newMarket("ELVER"), csvText(950));
    expect(await services.probes.get(id)).toMatchObject({ state: "out of date", why: expect.stringContaining("have changed") });
    await services.probes.run(id);
    expect((await services.probes.get(id))!.state).toBe("passed");
    expect((await services.strategies.trialCounts()).get(version.strategyId)).toBe(2);
    await services.close();
  });

  it("ask for criteria first", async () => {
    const services = await openTest(emptyFolder());
    const market = await addMarket(services, newMarket("ELVER"), csvText(300));
    const version = await services.strategies.create(SWING, "", null);
    await refusal(services.probes.create(version, "outOfSample", { split: "2015-06-30", criteria: {} }, runSettings(market)));
    await refusal(services.probes.create(version, "telepathy", {}, runSettings(market)));
    await services.close();
  });
});

describe("portfolios", () => {
  it("are simulated together; of one weight each, saved with a revision", async () => {
    const services = await openTest(emptyFolder());
    const one = await addMarket(services, newMarket("ELVER"), csvText(600));
    const two = await addMarket(services, newMarket("SMELT"), csvText(600, "2015-02-01"));
    const version = await services.strategies.create(SWING, "", null);
    const settings = { ...runSettings(one), markets: [...runSettings(one).markets, ...runSettings(two).markets] };
    const members = (a: number, b: number) => [
      { versionId: version.id, name: "first", markets: ["ELVER"], weight: a },
      { versionId: version.id, name: "second", markets: ["SMELT"], weight: b },
    ];
    const id = await services.portfolios.create("Both", { members: members(0.6, 0.4), settings });
    const { result, alone } = await services.portfolios.compute((await services.portfolios.get(id))!.document);
    expect(result.weights).toEqual([0.6, 0.4]);
    expect(new Set(result.trades.map((trade) => trade.member))).toEqual(new Set(["first", "second"]));
    expect(result.members.reduce((sum, member) => sum + member.contribution.profit, 0)).toBeCloseTo(result.metrics.all.netPercent!, 8);
    expect(result.members.reduce((sum, member) => sum + member.contribution.drawdown, 0)).toBeCloseTo(-result.metrics.all.maxDrawdown!, 6);
    expect(alone.length).toBe(2);
    expect((await refusal(services.portfolios.save(id, 1, "Both", { members: members(0.6, 0.6), settings }))).message).toContain(
      "add up to 1",
    );
    await services.portfolios.save(id, 1, "Both", { members: members(0.5, 0.5), settings });
    expect((await refusal(services.portfolios.save(id, 1, "Both", { members: members(0.3, 0.7), settings }))).status).toBe(409);
    expect((await services.portfolios.get(id))!.document.members[0].weight).toBe(0.5);
    await refusal(services.portfolios.create("", { members: members(0.5, 0.5), settings }));
    await refusal(services.portfolios.create("Alone", { members: members(1, 0).slice(0, 1), settings }));
    await services.portfolios.remove(id);
    expect(await services.portfolios.list()).toEqual([]);
    await services.portfolios.restore(id);
    expect((await services.portfolios.list()).length).toBe(1);
    await services.close();
  });

  it("of one member with weight 1 equal its run to the last bit", async () => {
    const services = await openTest(emptyFolder());
    const market = await addMarket(services, newMarket("ELVER"), csvText(600));
    const version = await services.strategies.create(SWING, "", null);
    const settings = runSettings(market);
    const { result } = await services.portfolios.compute({
      members: [{ versionId: version.id, name: "only", markets: ["ELVER"], weight: 1 }],
      settings,
      weighting: { mode: "given" },
    });
    const computed = await services.runs.compute(version, settings);
    const single = resultOf(computed.simulation, computed.fingerprint);
    expect(result.equity).toEqual(single.equity);
    expect(result.metrics).toEqual(single.metrics);
    await services.close();
  });
});
