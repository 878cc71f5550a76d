import { describe, expect, it } from "vitest";
import { READY_MADE } from "#core/library";
import { addMarket, emptyFolder, inlineExecutor, MIGRATIONS, refusal } from "./testing/services";
import { settingsMarket } from "./market-source";
import { openServices } from "./services";
import pino from "pino";

const strategy = (rule: string) => ({
  format: "canyon.strategy/1",
  name: "Tide line",
  timeframe: "1d",
  long: { enter: { when: rule } },
  sizing: { mode: "units", value: 1 },
});

async function services() {
  const folder = emptyFolder();
  const own = await openServices(folder, MIGRATIONS, inlineExecutor(folder), pino({ level: "silent" }));
  const rows = Array.from({ length: 300 }, (_, i) => {
    const price = 100 + 10 * Math.sin(i / 7) + i / 20;
    return `${new Date(Date.UTC(2020, 0, 1) + i * 86_400_000).toISOString().slice(0, 10)},${price},${price + 1},${price - 1},${price + 0.3},10`;
  });
  const market = await addMarket(
    own,
    { symbol: "SALT", name: "Salt", kind: "future", currency: "SKR", source: "Lighthouse", timeframe: "1d" } as never,
    ["time,open,high,low,close,volume", ...rows].join("\n"),
  );
  const settings = { format: "canyon.settings/1", capital: 10_000, markets: [settingsMarket(market)] };
  return { own, settings };
}

describe("a strategy's line", () => {
  it("counts each distinct try once, and tells trials by what spent them", async () => {
    const { own, settings } = await services();
    const version = await own.strategies.create(strategy("close > sma(close, 9)"), "first", settings);
    const id = version.strategyId;
    await own.strategies.countTries(id, [
      { hash: "a", from: null, to: null },
      { hash: "b", from: "2020-01-01", to: null },
    ]);
    await own.strategies.countTries(id, [{ hash: "a", from: null, to: null }]);
    await own.runs.save(version, settings);
    expect(await own.strategies.trialsOf(id)).toEqual({ tries: 2, runs: 1, optimizations: 0, probes: 0, total: 3 });
    expect((await own.strategies.trialCounts()).get(id)).toBe(3);
    await own.close();
  });

  it("keeps notes, restores an older version as the newest, and branches", async () => {
    const { own, settings } = await services();
    const first = await own.strategies.create(strategy("close > sma(close, 9)"), "first", settings);
    await own.strategies.save(first.strategyId, 1, strategy("close > sma(close, 12)"), "slower", settings);
    await own.strategies.setNote(first.id, "the baseline");
    const restored = await own.strategies.makeNewest(first.strategyId, 1);
    expect([restored.number, restored.note, restored.hash]).toEqual([3, "version 1 restored", first.hash]);
    const branch = await own.strategies.branch(first.id, "Tide line, other way");
    expect([branch.number, branch.note]).toEqual([1, "branched from Tide line, version 1"]);
    expect(branch.strategyId).not.toBe(first.strategyId);
    const versions = await own.strategies.versionsOf(first.strategyId);
    expect(versions.map(({ note }) => note)).toEqual(["the baseline", "slower", "version 1 restored"]);
    expect((await refusal(own.strategies.makeNewest(first.strategyId, 9))).problems[0].message).toContain("no version 9");
    await own.close();
  });

  it("is audited for looking ahead, and the result stays with the version", async () => {
    const { own, settings } = await services();
    const version = await own.strategies.create(strategy("close > sma(close, 9) and (close > open) on 1w"), "", settings);
    const audit = await own.audits.run(version);
    expect(audit).toMatchObject({ cuts: 24, difference: null, markets: ["SALT"] });
    expect(audit.closes).toBeGreaterThan(2000);
    expect((await own.strategies.version(version.id))!.audit).toEqual(audit);
    const bare = await own.strategies.create(strategy("close > 1"), "", null);
    expect((await refusal(own.audits.run(bare))).problems[0].path).toBe("settings");
    await own.close();
  });
});

describe("definitions of one's own", () => {
  const mine = { name: "quiet", kind: "filter" as const, title: "Quiet bar", about: "", rule: "high - low < atr(20)" };

  it("are saved, changed, taken out and put back; what is wrong is refused", async () => {
    const { own } = await services();
    await own.definitions.save(mine);
    const [{ id }] = await own.definitions.own();
    await own.definitions.save({ ...mine, rule: "high - low < 0.5 * atr(20)" }, id);
    expect((await own.definitions.own())[0].rule).toContain("0.5");
    expect((await refusal(own.definitions.save(mine))).problems[0].message).toContain("already");
    expect((await refusal(own.definitions.save({ ...mine, name: "close", rule: "close >" }))).problems.map(({ path }) => path)).toEqual([
      "name",
      "rule",
    ]);
    expect((await refusal(own.definitions.save({ ...mine, name: READY_MADE[0].name }))).problems[0].message).toContain("ready-made");
    const removed = await own.definitions.remove(id);
    expect(await own.definitions.own()).toEqual([]);
    await own.definitions.save(removed);
    expect((await own.definitions.own())[0].name).toBe("quiet");
    await own.close();
  });

  it("go out and come back as a file, all or none", async () => {
    const { own } = await services();
    await own.definitions.save(mine);
    const file = await own.definitions.file();
    const other = { ...mine, name: "loud", rule: "high - low > 2 * atr(20)" };
    expect(await own.definitions.takeFile({ ...file, definitions: [{ ...mine, title: "Very quiet" }, other] })).toEqual({
      added: 1,
      changed: 1,
    });
    expect((await own.definitions.own()).map(({ name, title }) => [name, title])).toEqual([
      ["loud", "Quiet bar"],
      ["quiet", "Very quiet"],
    ]);
    const wrong = {
      ...file,
      definitions: [
        { ...other, name: "third" },
        { ...other, name: "fourth", rule: "close >" },
      ],
    };
    expect((await refusal(own.definitions.takeFile(wrong))).problems[0].path).toBe("definitions[1].rule");
    expect(await own.definitions.own()).toHaveLength(2);
    await own.close();
  });
});
