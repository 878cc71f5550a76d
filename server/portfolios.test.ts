import { describe, expect, it } from "vitest";
import { emptyBars } from "#core/bars";
import { readPortfolio } from "#core/portfolio";
import { Random } from "#core/random";
import { orderSheets, sheetsDocument } from "./orders";
import { chooseFromLibrary, choosingPlan, looksSoFar } from "./portfolio-choosing";
import { membersView } from "./portfolio-changes";
import { portfolioLuck } from "./portfolio-luck";
import { poolOf } from "./portfolio-pool";
import {
  headOfPage,
  loadPortfolio,
  loadPortfolioOrNull,
  portfolioPage,
  portfolioReport,
  stretchesOf,
  togetherView,
} from "./portfolio-report";
import { whatIfOf, whatIfView } from "./portfolio-what-if";
import { makeSwitch, regimeView } from "./regimes";
import { settingsMarket, type MarketView } from "./markets";
import type { Services } from "./services";
import { emptyFolder, newMarket, openTest, refusal, runSettings, SWING } from "./testing/services";

/** Four markets of made-up weekdays, of which SMELT follows ELVER; a survivor on each, and a draft. */
async function library(sealed: string | null = null) {
  const services = await openTest(emptyFolder());
  const common = new Random(3);
  const shared = Array.from({ length: 900 }, () => common.normal());
  const markets: MarketView[] = [];
  for (const [k, symbol] of ["ELVER", "SMELT", "COD", "HAKE"].entries()) {
    const random = new Random(100 + k);
    const bars = emptyBars(900);
    let price = 100;
    for (let i = 0; i < bars.length; i++) {
      bars.time[i] = Date.UTC(2015, 0, 5) + (Math.floor(i / 5) * 7 + (i % 5)) * 86_400_000;
      bars.open[i] = price;
      price *= 1 + 0.01 * (k < 2 ? shared[i] + 0.1 * random.normal() : random.normal()) + 0.0005;
      bars.close[i] = price;
      bars.high[i] = Math.max(bars.open[i], price) * 1.003;
      bars.low[i] = Math.min(bars.open[i], price) * 0.997;
      bars.volume[i] = 100;
    }
    markets.push(await services.markets.add({ ...newMarket(symbol), sector: k < 2 ? "River" : "Sea" }, bars, "1d"));
  }
  if (sealed !== null) {
    await services.seals.seal(markets[0], sealed);
    markets[0] = (await services.markets.bySymbol("ELVER"))!;
  }
  const versions = [];
  for (const [k, market] of [...markets, markets[0]].entries()) {
    const version = await services.strategies.create(
      { ...SWING, name: `On ${market.symbol}${k === 4 ? ", a draft" : ""}` },
      "",
      runSettings(market),
    );
    await services.runs.save(version, runSettings(market));
    versions.push(version);
    if (k === 4) continue;
    const probe = await services.probes.create(
      version,
      "outOfSample",
      { split: "2017-01-02", criteria: { trades: 1 } },
      runSettings(market),
    );
    await services.probes.run(probe);
    await services.statusMoves.move(version, "survivor", "for a test", "a test", [probe]);
  }
  const settings = { ...runSettings(markets[0]), markets: markets.map((market) => settingsMarket(market)) };
  return { services, markets, versions, settings };
}

const member = (versions: { id: number }[], k: number, market: string, weight: number) => ({
  versionId: versions[k].id,
  name: `On ${market}`,
  markets: [market],
  weight,
});
const sum = (list: readonly number[]) => list.reduce((a, b) => a + b, 0);
const pageOf = async (services: Services, id: number) => (await portfolioPage(services, id))!;

describe("a portfolio's states", () => {
  it("are all kept, with what changed in words and why", async () => {
    const { services, versions, settings } = await library();
    const two = [member(versions, 0, "ELVER", 0.6), member(versions, 2, "COD", 0.4)];
    const id = await services.portfolios.create("River and sea", { members: two, settings }, "a start");
    const three = [{ ...two[0], weight: 0.5, condition: { rule: "close > sma(close, 50)", while: "yes" as const } }, { ...two[1], weight: 0.25 }, member(versions, 3, "HAKE", 0.25)]; // prettier-ignore
    await services.portfolios.save(id, 1, "River and sea", { members: three, settings: { ...settings, capital: 200_000 } }, "more sea");
    const weighting = { mode: "riskParity", from: "2015-01-05", to: "2016-12-30", every: 6 } as const;
    await services.portfolios.save(id, 2, "Sea", { members: three.slice(1), settings: { ...settings, capital: 200_000 }, weighting });
    const [third, second, first] = await services.portfolios.versions(id);
    expect([first.note, second.note]).toEqual(["a start", "more sea"]);
    expect(first.changes).toEqual([]);
    expect(second.changes).toEqual([
      "On ELVER: 60 % → 50 %.",
      "On ELVER: while “close > sma(close, 50)” says yes instead of at all times.",
      "On COD: 40 % → 25 %.",
      "On HAKE (version 1) came in on HAKE with 25 %.",
      expect.stringMatching(/capital.*100,?000.*200,?000/),
    ]);
    expect(third.changes.slice(0, 2)).toEqual([
      "Renamed from “River and sea” to “Sea”.",
      "Instead of weights by hand: weights by equal risk, estimated 2015-01-05 to 2016-12-30, anew every 6 months.",
    ]);
    expect(third.changes).toContain("On ELVER was taken out.");
    await services.close();
  });

  it("are refused with what is wrong, at its place, and nothing is written", async () => {
    const { services, markets, versions, settings } = await library();
    const two = [member(versions, 0, "ELVER", 0.6), member(versions, 2, "COD", 0.4)];
    const refused = async (change: object) =>
      (await refusal(services.portfolios.create("X", { members: two, settings, ...change }))).problems;
    expect(await refused({ members: [two[0], { ...two[1], weight: 0.5 }] })).toMatchObject([
      { path: "members", message: expect.stringContaining("add up to 1") },
    ]);
    const estimated = { mode: "minimumVariance", from: "2015-01-05", to: "2016-12-30" };
    expect(await refused({ weighting: { ...estimated, most: 0.4 } })).toMatchObject([{ path: "weights.most" }]);
    expect(await refused({ weighting: { mode: "riskParity" } })).toMatchObject([{ path: "weights.from" }, { path: "weights.to" }]);
    expect((await refused({ weighting: { ...estimated, to: "2015-01-07" } }))[0].path).toMatch(/^(weights.to|members)/);
    expect(await refused({ members: [two[0], { ...two[1], versionId: 999 }] })).toMatchObject([
      { path: "members[1]", message: expect.stringContaining("does not exist any more") },
    ]);
    const weekly = await services.strategies.create({ ...SWING, name: "Weekly", timeframe: "1w" }, "", null);
    expect(await refused({ members: [two[0], { ...two[1], versionId: weekly.id }] })).toMatchObject([
      { path: "members[1].strategy.timeframe" },
    ]);
    await services.markets.add({ ...newMarket("PENCE"), currency: "GRT" }, (await services.bars.all([markets[0].barsHash]))[0], "1d");
    const pence = settingsMarket((await services.markets.bySymbol("PENCE"))!);
    expect(
      await refused({
        members: [two[0], { ...two[1], markets: ["PENCE"] }],
        settings: { ...settings, markets: [...settings.markets, pence] },
      }),
    ).toMatchObject([{ path: "members[1].markets", message: "PENCE is quoted in GRT and ELVER in SKR; one account has one currency" }]);
    expect(await services.portfolios.list()).toEqual([]);
    await services.close();
  });
});

describe("a portfolio's pages", () => {
  it("agree with each other and with the simulation", async () => {
    const { services, versions, settings } = await library();
    const members = [member(versions, 0, "ELVER", 0.3), member(versions, 1, "SMELT", 0.3), member(versions, 2, "COD", 0.4)];
    const weighting = { mode: "inverseVolatility", from: "2015-01-05", to: "2016-12-30", every: 6 } as const;
    const id = await services.portfolios.create("Three", { members, settings, weighting });
    const page = await pageOf(services, id);
    expect(headOfPage(page)).toMatchObject({
      name: "Three",
      members: 3,
      weighting: "weights by inverse volatility, estimated 2015-01-05 to 2016-12-30, anew every 6 months",
    });
    const report = await portfolioReport(services, page);
    expect(sum(report.rows.map(({ profit }) => profit))).toBeCloseTo(report.metrics.netPercent!, 8);
    expect(sum(report.rows.map(({ volatility }) => volatility!))).toBeCloseTo(report.figures.volatility!, 9);
    expect(sum(report.rows.map(({ weight }) => weight))).toBeCloseTo(1, 9);
    const bounds = stretchesOf(page)!;
    expect(bounds.judged[0]).toBe(bounds.estimated[1] + 1);
    expect(report.stretches!.judged.netPercent).not.toBe(report.figures.netPercent);
    const together = togetherView(page);
    expect(together.by.week.values[0][1]!).toBeGreaterThan(0.8);
    expect(Math.abs(together.order.indexOf(0) - together.order.indexOf(1))).toBe(1);
    const pool = await poolOf(services, settings, "1d", false);
    expect(pool.entries.map(({ version }) => version.strategyName).sort()).toEqual(["On COD", "On ELVER", "On HAKE", "On SMELT"]);
    const view = membersView(page, pool);
    expect(view.changed.map(({ what, name }) => `${what} ${name}`)).toEqual([
      "as it is as it is",
      "without On ELVER",
      "without On SMELT",
      "without On COD",
      "with On HAKE",
    ]);
    expect(view.changed[0].row.netPercent).toBeCloseTo(report.figures.netPercent!, 9);
    for (const { fall, members: parts } of view.falls) expect(sum(parts)).toBeCloseTo(-fall.money, 5);
    const luck = await portfolioLuck(services, page);
    expect(luck.trials.members).toBeGreaterThan(2);
    expect(luck.luck.answers.length).toBe(4);
    await services.close();
  });

  it("what if: more costs take more, given numbers are read, others refused", async () => {
    const { services, versions, settings } = await library();
    const costs = { ...settings.costs, percent: 0.1 };
    const id = await services.portfolios.create("Two", {
      members: [member(versions, 0, "ELVER", 0.5), member(versions, 2, "COD", 0.5)],
      settings: { ...settings, costs },
    });
    const page = await pageOf(services, id);
    const view = whatIfView(page, whatIfOf(new URLSearchParams("costs=3&drawdown=10"), page));
    expect(view.then.netPercent!).toBeLessThan(view.now.netPercent!);
    const same = whatIfView(page, whatIfOf(new URLSearchParams(), page));
    expect(same.then).toEqual(same.now);
    expect(view.draws!.atSize.drawdown95).toBeLessThanOrEqual(10.5);
    expect(view.failed.map(({ name }) => name)).toEqual(["On ELVER", "On COD"]);
    const refused = (text: string) => { try { whatIfOf(new URLSearchParams(text), page); return null; } catch (error) { return (error as { problems: object[] }).problems; } }; // prettier-ignore
    expect(refused("capital=much")).toMatchObject([{ path: "capital", message: expect.stringContaining("“much” is not") }]);
    expect(refused("capital=-5")).toMatchObject([{ path: "capital" }]);
    await services.close();
  });

  it("of one that can't be computed any more say so", async () => {
    const { services, versions, settings } = await library();
    const id = await services.portfolios.create("Two", {
      members: [member(versions, 0, "ELVER", 0.5), member(versions, 2, "COD", 0.5)],
      settings,
    });
    const lost = { members: [member(versions, 0, "ELVER", 0.5), { ...member(versions, 2, "COD", 0.5), versionId: 999 }], settings };
    await services.db.$client.execute({ sql: "UPDATE portfolios SET document = ? WHERE id = ?", args: [JSON.stringify(lost), id] });
    const response = (await loadPortfolio(services, String(id)).catch((error: unknown) => error)) as Response;
    expect([response.status, await response.text()]).toEqual([409, expect.stringContaining("“On COD” does not exist any more")]);
    expect(await loadPortfolioOrNull(services, id)).toBeNull();
    expect(((await loadPortfolio(services, "77").catch((error: unknown) => error)) as Response).status).toBe(404);
    const { left } = await orderSheets(services);
    expect(left).toMatchObject([{ name: "Two", why: expect.stringContaining("does not exist any more") }]);
    await services.close();
  });
});

describe("choosing from the library", () => {
  it("keeps to the limits, judges on later dates, and counts each question's looks once", async () => {
    const { services } = await library();
    const plan = choosingPlan(
      new URLSearchParams("count=3&from=2015-01-05&to=2016-12-30&judgeTo=2018-06-01&perSector=1&method=evolution"),
      "2018-06-01",
    );
    const view = await chooseFromLibrary(services, plan);
    expect(view.entries.every(({ survivor }) => survivor)).toBe(true);
    expect(view.choice.chosen.length).toBe(2);
    const sectors = view.choice.chosen.map((i) => (["ELVER", "SMELT"].includes(view.entries[i].markets[0]) ? "River" : "Sea"));
    expect(new Set(sectors).size).toBe(2);
    expect(view.kept.every(({ why }) => why === "sectors")).toBe(true);
    expect(view.groups.some(({ members }) => members.length === 2)).toBe(true);
    const { total } = await looksSoFar(services.db);
    expect(total).toBe(view.choice.looks);
    await chooseFromLibrary(services, plan);
    expect(await looksSoFar(services.db)).toEqual({ total, questions: 1 });
    const more = await chooseFromLibrary(services, { ...plan, drafts: true, count: 2, limits: {}, method: "greedy" });
    expect(more.entries.some(({ survivor }) => !survivor)).toBe(true);
    expect((await looksSoFar(services.db)).total).toBe(total + more.choice.looks);
    expect(more.chosen!.judged.netPercent).not.toBeNull();
    const refused = () => choosingPlan(new URLSearchParams("count=none&from=2017-01-01&to=2016-01-01"), "2018-01-01");
    expect(refused).toThrow(/“none” is not.*end after they begin/);
    await services.close();
  });
});

describe("regimes", () => {
  const question = { rule: "close of ELVER > sma(close of ELVER, 30)", market: "ELVER", yes: "ELVER", no: "COD", from: null, to: null };

  it("divide holding, switching and portfolios; the switch becomes a portfolio of two members", async () => {
    const { services } = await library();
    const view = await regimeView(services, question, []);
    expect(view.rows.map(({ name }) => name)).toEqual(["holding ELVER", "holding COD", "ELVER while yes, COD while no"]);
    for (const { days } of view.rows) expect(days.yes.days + days.no.days + days.unknown).toBe(days.all.days);
    const id = await makeSwitch(services, question, "There and back");
    const page = await pageOf(services, id);
    expect(page.document.members.map(({ name, weight }) => [name, weight])).toEqual([
      ["ELVER while yes", 0.5],
      ["COD while no", 0.5],
    ]);
    const [elver] = page.computed.result.trades.filter((trade) => trade.member === "ELVER while yes");
    expect((elver.units * elver.entryPrice) / 1_000_000).toBeGreaterThan(0.95);
    const again = await regimeView(services, question, [page]);
    expect(again.rows.at(-1)).toMatchObject({ name: "There and back", kind: "portfolio" });
    await services.close();
  });

  it("are refused at their place", async () => {
    const { services } = await library();
    const problems = async (change: object) => (await refusal(regimeView(services, { ...question, ...change }, []))).problems;
    expect(await problems({ rule: "close >" })).toMatchObject([{ path: "rule", message: expect.stringContaining("line 1") }]);
    expect(await problems({ rule: "close of WHALE > 3" })).toMatchObject([{ path: "rule", message: "there is no market WHALE" }]);
    expect((await refusal(makeSwitch(services, { ...question, no: null }, "X"))).problems[0].path).toBe("no");
    await services.close();
  });
});

describe("the order sheet", () => {
  it("asks every survivor and portfolio, on the newest bars that count, up to any date", async () => {
    const { services, markets, versions, settings } = await library();
    const id = await services.portfolios.create("Two", {
      members: [member(versions, 0, "ELVER", 0.5), member(versions, 2, "COD", 0.5)],
      settings,
    });
    const { sheets, left, sealed } = await orderSheets(services);
    expect(left).toEqual([]);
    expect(sealed).toEqual([]);
    expect(sheets.map(({ name }) => name).sort()).toEqual([
      "On COD, version 1",
      "On ELVER, version 1",
      "On HAKE, version 1",
      "On SMELT, version 1",
      "Two",
    ]);
    const last = new Date(markets[0].lastTime).toISOString().slice(0, 10);
    expect(sheets.every((sheet) => sheet.date === last)).toBe(true);
    // what one sheet asks for at the open is what the next one tells as opened
    let asked = 0;
    for (let day = 0; day < 40; day++) {
      const date = (k: number) =>
        new Date(Date.UTC(2017, 2, 6) + (Math.floor((day + k) / 5) * 7 + ((day + k) % 5)) * 86_400_000).toISOString().slice(0, 10);
      const find = (list: typeof sheets) => list.find(({ kind }) => kind === "portfolio")!;
      const [today, tomorrow] = [find((await orderSheets(services, date(0))).sheets), find((await orderSheets(services, date(1))).sheets)];
      const orders = today.orders.filter(({ purpose }) => purpose === "enter");
      asked += orders.length;
      expect(tomorrow.changes!.opened.map(({ member: who, units, side }) => [who, units, side])).toEqual(
        orders.map((order) => [order.member, order.units, order.side]),
      );
    }
    expect(asked).toBeGreaterThan(1);
    const document = sheetsDocument(await orderSheets(services));
    expect(document).toMatchObject({ format: "canyon.orders/1" });
    expect(Object.keys(document.sheets[0])).not.toContain("path");
    expect((await refusal(orderSheets(services, "soon"))).problems[0].path).toBe("on");
    expect((await services.portfolios.get(id))!.revision).toBe(1);
    await services.close();
  });
});

describe("the order sheet of a sealed market", () => {
  it("is for the session after the last bar before the seal, and says so", async () => {
    const { services } = await library("2017-06-01");
    const { sheets, sealed } = await orderSheets(services);
    expect(sealed).toEqual([{ symbol: "ELVER", from: "2017-06-01" }]);
    const own = sheets.find(({ name }) => name === "On ELVER, version 1")!;
    expect(own.date).toBe("2017-05-31");
    expect(own.markets).toMatchObject([{ symbol: "ELVER", last: "2017-05-31", next: "2017-06-01" }]);
    expect(JSON.stringify(own)).not.toMatch(/2017-0[6-9]-0[2-9]|2018-/);
    await services.close();
  });
});

describe("a portfolio as a file", () => {
  it("is one that the command line reads", async () => {
    const { services, versions, settings } = await library();
    const id = await services.portfolios.create("Two", {
      members: [member(versions, 0, "ELVER", 0.5), member(versions, 2, "COD", 0.5)],
      settings,
    });
    const { document } = await pageOf(services, id);
    const plan = {
      format: "canyon.portfolio/1",
      settings: document.settings,
      members: document.members.map(({ versionId: _id, ...one }) => ({ ...one, strategy: versions[0].strategy })),
      weights: document.weighting,
    };
    expect(readPortfolio(plan).problems).toEqual([]);
    await services.close();
  });
});
