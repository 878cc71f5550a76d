import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Browser, Page } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { seriousViolations } from "./axe";
import { byText, choose, click, fill, fillField, go, liveMetric, newPage, openBrowser, startServer, until, type Running } from "./harness";

let server: Running;
let browser: Browser;
let page: Page;
let errors: string[];
const files = mkdtempSync(join(tmpdir(), "canyon-files-"));

beforeAll(async () => {
  server = await startServer();
  browser = await openBrowser();
  ({ page, errors } = await newPage(browser));
});
afterAll(async () => {
  await browser?.close();
  await server?.stop();
});

const at = (path: string) => server.base + path;
const heading = () => page.$eval("h1", (element) => element.textContent);

/** Daily bars as CSV: a long swing. */
function csv(count: number): string[] {
  const lines = ["Date,Open,High,Low,Close,Volume"];
  let price = 100;
  for (let i = 0; i < count; i++) {
    const open = price;
    price = Number((100 + 25 * Math.sin(i / 40) + 4 * Math.sin(i / 3)).toFixed(2));
    lines.push(
      `${new Date(Date.UTC(2012, 0, 1) + i * 86_400_000).toISOString().slice(0, 10)},${open},${Math.max(open, price) + 1},${Math.min(open, price) - 1},${price},500`,
    );
  }
  return lines;
}

describe("markets", () => {
  it("lists the demo's, each with its chart, and finds one by name or list", async () => {
    await go(page, at("/markets"));
    const rows = () => page.$$eval("tbody tr", (all) => all.map((row) => row.textContent ?? ""));
    expect((await rows()).length).toBe(49);
    await fillField(page, "Find", "freight");
    await until(page, 'document.querySelectorAll("tbody tr").length < 5');
    const [ferry] = (await rows()).filter((row) => row.startsWith("FERRY"));
    expect(ferry).toContain("2004-01-02");
    expect(ferry).toContain("2024-12-31");
    await fillField(page, "Find", "");
    await choose(page, "List", "Harbour futures");
    await until(page, 'document.querySelectorAll("tbody tr").length === 6');
    await click(page, "tbody a", "FERRY");
    await until(page, 'document.querySelector("canvas")?.dataset.drawn > 0');
    expect(await heading()).toBe("FERRY");
  });

  it("zooms and pans the chart by keys, and shows it as a table", async () => {
    await go(page, at("/markets/KELP"));
    await until(page, 'document.querySelector("canvas")?.dataset.drawn > 0');
    await page.focus("canvas");
    const rows = async () => {
      await page.click('button[aria-label$="read as a table"]');
      const dates = await page.$$eval("figure tbody tr", (all) => all.map((row) => row.children[0].textContent));
      await page.click('button[aria-label$="read as a table"]');
      await page.waitForSelector("canvas");
      await until(page, 'document.querySelector("canvas")?.dataset.drawn > 0');
      await page.focus("canvas");
      return dates;
    };
    const start = await rows();
    await page.keyboard.press("+");
    const closer = await rows();
    expect(closer.length).toBeLessThan(start.length);
    await page.keyboard.press("ArrowLeft");
    const earlier = await rows();
    expect(earlier[0]! < closer[0]!).toBe(true);
    await page.keyboard.press("Home");
    expect((await rows())[0]).toBe("2004-01-02");
  });

  const handIn = async (...paths: string[]) => {
    await go(page, at("/markets/import"));
    const input = (await page.waitForSelector('input[type="file"]'))!;
    await (input as unknown as { uploadFile: (...all: string[]) => Promise<void> }).uploadFile(...paths);
  };

  it("imports a file of one's own: preview, every broken line with its number, nothing before it is confirmed", async () => {
    const broken = csv(900);
    broken[5] = broken[5].replace(/,\d+\.\d+,/, ",abc,");
    broken[9] = "2012-01-99,1,1,1,1,1";
    const path = join(files, "elver.csv");
    writeFileSync(path, broken.join("\n"));
    await handIn(path);
    await page.waitForSelector("[data-preview]");
    const list = await page.$eval('ol[aria-label="Broken lines at its beginning"]', (element) => element.textContent);
    expect(list).toContain("line 6");
    expect(list).toContain("line 10");
    await fillField(page, "Name", "Elver");
    await click(page, "button", "Import");
    await until(page, 'location.pathname.startsWith("/imports/")');
    await byText(page, "h2", "Nothing counts yet");
    expect(await page.$eval('ol[aria-label="Rejected lines"]', (element) => element.textContent)).toContain("line 10");
    expect((await fetch(at("/markets/ELVER"))).status).toBe(404);
    await click(page, "button", "Drop the file");
    await until(page, 'location.pathname === "/imports"');
    expect((await fetch(at("/markets/ELVER"))).status).toBe(404);
  });

  it("imports a good file, which then works like a demo market", async () => {
    const path = join(files, "elver-good.csv");
    writeFileSync(path, csv(900).join("\n"));
    await handIn(path);
    await page.waitForSelector("[data-preview]");
    await fillField(page, "Symbol", "ELVER");
    await fillField(page, "Name", "Elver, young eel");
    await fillField(page, "Tick", "0.01");
    await fillField(page, "Money per", "10");
    await click(page, "button", "Import");
    await until(page, 'document.body.textContent.includes("The bars count now.")');
    await go(page, at("/markets/ELVER"));
    await until(page, 'document.querySelector("canvas")?.dataset.drawn > 0');
    await go(page, at("/strategies/1?market=ELVER"));
    await until(page, 'document.querySelector("[data-metric=trades]")');
    expect(Number(await liveMetric(page, "trades"))).toBeGreaterThan(0);
  });

  it("says what is wrong with an empty file and with one without the columns", async () => {
    for (const [name, content, message] of [
      ["empty.csv", "", "is empty"],
      ["blank.csv", " \n ", "holds no text"],
      ["other.csv", "when,price\n2020-01-01,5", "name the open, high, low column"],
    ]) {
      const path = join(files, name);
      writeFileSync(path, content);
      await handIn(path);
      await until(
        page,
        `[...document.querySelectorAll("[role=alert]")].some((one) => one.textContent.includes(${JSON.stringify(message)}))`,
      );
    }
  });
});

describe("a new strategy", () => {
  it("is written, with errors at their place while typing, and saved as a version", async () => {
    await go(page, at("/strategies/new?blank=1&market=FERRY"));
    await fillField(page, "Name", "Slow and steady");
    await click(page, "button", "Parameter");
    await until(page, 'document.querySelector("[role=slider][aria-label=length]")');
    const editor = '[aria-label="Enter long when"]';
    await page.click(editor);
    await page.keyboard.type("close > smaa(close, length)");
    await until(page, 'document.querySelector("[role=alert]")?.textContent.includes("There is no function “smaa”; did you mean “sma”?")');
    expect(await page.$eval("[role=alert]", (element) => element.textContent)).toMatch(/^Column 9: /);
    expect(await (await byText(page, "button", "Save")).evaluate((b) => (b as HTMLButtonElement).disabled)).toBe(true);
    await fill(page, editor, "close > sma(close, length");
    await page.keyboard.press("Escape");
    await fill(page, '[aria-label="Exit long when"]', "close < sma(close, length");
    await page.keyboard.press("Escape");
    await until(page, 'document.querySelector("[data-metric=trades]")');
    expect(Number(await liveMetric(page, "trades"))).toBeGreaterThan(10);
    await click(page, "button", "Save");
    await until(page, "/^\\/strategies\\/\\d+$/.test(location.pathname)");
    await byText(page, "h1", "Slow and steady");
    expect(await page.$eval("main", (element) => element.textContent)).toContain("version 1");
  });

  it("redraws while a slider moves, against what stood before; undo brings it back", async () => {
    await until(page, 'document.querySelector("[data-took]")');
    await click(page, "button", "against the saved version");
    const before = await liveMetric(page, "netProfit");
    await page.focus('[role="slider"][aria-label="length"]');
    for (let i = 0; i < 4; i++) await page.keyboard.press("ArrowRight");
    await until(page, 'document.body.textContent.includes("changed since before (version 1 as saved)")');
    await until(page, `document.querySelector("[data-metric=netProfit]").textContent !== ${JSON.stringify(before)}`);
    await click(page, "button", "Undo");
    await until(page, `document.querySelector("[data-metric=netProfit]").textContent === ${JSON.stringify(before)}`);
  });

  it("keeps an unsaved change when the page is loaded again", async () => {
    await page.focus('[role="slider"][aria-label="length"]');
    await page.keyboard.press("ArrowRight");
    await until(page, 'document.body.textContent.includes("version 1, changed")');
    const value = await page.$eval('[role="slider"][aria-label="length"]', (element) => element.getAttribute("aria-valuenow"));
    await page.reload({ waitUntil: "networkidle2" });
    await until(page, 'document.body.textContent.includes("An unsaved change was brought back.")');
    expect(await page.$eval('[role="slider"][aria-label="length"]', (element) => element.getAttribute("aria-valuenow"))).toBe(value);
  });

  it("saved in two windows at once: the second is told, and keeps its change", async () => {
    const address = page.url().replace(/\?.*/, "");
    const other = await newPage(browser);
    await other.page.bringToFront();
    await go(other.page, address);
    await fillField(other.page, "Name", "Slow and steadier");
    await page.bringToFront();
    await click(page, "button", "Save as version 2");
    await click(page, "button", "Save version 2");
    await until(page, 'document.body.textContent.includes("version 2 ·")');
    await other.page.bringToFront();
    await click(other.page, "button", "Save as version 2");
    await click(other.page, "button", "Save version 2");
    await until(other.page, 'document.querySelector("[role=alert]")?.textContent.includes("version 2 was saved meanwhile")');
    expect(await other.page.$eval("main input", (element) => (element as HTMLInputElement).value)).toBe("Slow and steadier");
    await click(other.page, "button", "Save it as the newest version");
    await until(other.page, 'document.querySelector("h1").textContent === "Slow and steadier"');
    await other.page.close();
    await page.bringToFront();
    await go(page, `${address}/versions`);
    const versions = await page.$$eval("main h2", (all) =>
      all.map((element) => element.textContent!).filter((head) => head.startsWith("Version")),
    );
    expect(versions).toEqual(["Version 3", "Version 2", "Version 1"]);
  });
});

describe("a backtest", () => {
  it("is stored as a run with its fingerprint, and reads as a report", async () => {
    await go(page, at("/strategies/1"));
    await until(page, 'document.querySelector("[data-metric=trades]")');
    const trades = await liveMetric(page, "trades");
    await click(page, "button", "Save run");
    await until(page, '/^Ferry channel, run \\d+$/.test(document.querySelector("h1").textContent)');
    const text = await page.$eval("main", (element) => element.textContent ?? "");
    expect(text).toMatch(/fingerprint [0-9a-f]{8}/);
    const row = await page.$$eval("main tbody tr", (all) => all.map((r) => r.textContent ?? "").find((t) => t.startsWith("Closed trades")));
    expect(row).toContain(trades);
    await until(page, '[...document.querySelectorAll("canvas")].every((c) => c.dataset.drawn > 0)');
  });

  it("sorts its trades, and shows one on the prices by click and by key", async () => {
    await click(page, "th button", "net");
    const nets = async () =>
      page.$$eval("tr[data-trade] td:nth-last-child(3)", (all) =>
        all.slice(0, 8).map((cell) => Number(cell.textContent!.replace("−", "-").replace(/[,+]/g, ""))),
      );
    await until(page, 'location.search.includes("sort=net") && document.querySelector("th[aria-sort=ascending]")?.textContent === "net"');
    const rising = await nets();
    expect([...rising].sort((a, b) => a - b)).toEqual(rising);
    await page.click("tr[data-trade]");
    const first = await page.$eval("tr[data-trade]", (row) => row.dataset.trade);
    await until(page, `location.search.includes("trade=${first}")`);
    await byText(page, "h2", `Trade ${first} on prices`);
    await page.focus('[aria-label="Trades; arrow keys select"]');
    await page.keyboard.press("ArrowDown");
    await until(page, `!location.search.includes("trade=${first}&") && !location.search.endsWith("trade=${first}")`);
    await page.goBack({ waitUntil: "networkidle2" });
  });

  it("is computed again to the last bit on the server, as a file, and in the browser", async () => {
    await go(page, at("/runs/1"));
    await click(page, "button", "Compute again");
    await byText(page, "[role=status]", "Computed again: the same result to the last bit.");
    const file = await page.evaluate(async () => (await fetch("/runs/1/file/result.json")).json());
    expect(file.format).toBe("canyon.result/1");
    await go(page, at("/strategies/1"));
    await until(page, 'document.querySelector("[data-metric=netProfit]")');
    const shown = (await liveMetric(page, "netProfit")).replace(/[+,]/g, "").replace("−", "-");
    expect(Number(shown)).toBe(Math.round(file.metrics.all.netProfit));
  });

  it("says so when the dates hold no bars, and keeps what was typed", async () => {
    await go(page, at("/strategies/1?from=2060-01-01"));
    await until(page, 'document.body.textContent.includes("there are no bars from 2060-01-01")');
    await go(page, at("/strategies/1?capital=much"));
    await until(page, 'document.body.textContent.includes("“much” is not a number")');
  });
});

describe("probes", () => {
  it("a probe's criteria are written down, it runs, and becomes a layer; changed afterwards it is out of date", async () => {
    await go(page, at("/strategies/1/evidence?probe=1"));
    await byText(page, "h2", "Out-of-sample passed");
    await click(page, "button", "Change criteria");
    await fillField(page, "Profit factor, at least", "9");
    await click(page, "button", "Write down");
    await byText(page, "h2", "Out-of-sample out of date");
    await click(page, "button", "Run again");
    await byText(page, "h2", "Out-of-sample failed");
    expect(await page.$eval("header svg", (element) => element.getAttribute("aria-label"))).toContain("Out-of-sample failed");
    await byText(page, "summary", "1 earlier result");
    await go(page, at("/probes"));
    expect(await page.$eval("main", (element) => element.textContent)).toContain("5 failed");
  });

  it("a new probe on a new version begins untested", async () => {
    await go(page, at("/strategies/9/evidence"));
    await click(page, "a", "Set up the first probe");
    await fillField(page, "Closed trades, at least", "5");
    await fillField(page, "Profit factor, at least", "");
    await fillField(page, "Share of the in-sample", "");
    await click(page, "button", "Write the criteria down");
    await byText(page, "h2", "Out-of-sample untested");
    await click(page, "button", "Run the probe");
    await until(page, 'document.querySelector("[data-verdict=passed], [data-verdict=failed]")');
  });
});

describe("a market under a stored run", () => {
  it("can be taken out and brought back; the run stays", async () => {
    await go(page, at("/markets"));
    await page.click('button[aria-label="take out PEAT"]');
    await until(page, 'document.body.textContent.includes("PEAT was taken out.")');
    await go(page, at("/runs/3"));
    expect(await page.$eval("main", (element) => element.textContent)).toContain("PEAT was taken out of the markets since.");
    expect(await page.$$eval("tr[data-trade]", (all) => all.length)).toBeGreaterThan(3);
    await go(page, at("/strategies/3"));
    await until(page, 'document.body.textContent.includes("it may have been deleted") || document.querySelector("[data-metric=trades]")');
    await go(page, at("/markets"));
    await until(page, "document.querySelector(\"button[aria-label='take out KELP']\")");
    await page.click('button[aria-label="take out KELP"]');
    await click(page, "button", "Undo");
    await until(page, '[...document.querySelectorAll("tbody tr")].some((row) => row.textContent.startsWith("KELP"))');
  });
});

describe("everywhere", () => {
  it("the palette finds places and does things, by keys alone", async () => {
    await go(page, at("/library"));
    await page.keyboard.down("Control");
    await page.keyboard.press("k");
    await page.keyboard.up("Control");
    await page.waitForSelector("[cmdk-input]");
    await page.keyboard.type("portfolios");
    await page.keyboard.press("Enter");
    await until(page, 'location.pathname === "/portfolios"');
    await page.keyboard.press("?");
    await byText(page, "h2", "Keys of this page");
    await page.keyboard.press("Escape");
  });

  it("the theme changes and is remembered", async () => {
    await page.click('button[aria-label="Dark theme"]');
    expect(await page.evaluate(() => document.documentElement.dataset.theme)).toBe("dusk");
    await page.reload({ waitUntil: "networkidle2" });
    expect(await page.evaluate(() => document.documentElement.dataset.theme)).toBe("dusk");
    await page.click('button[aria-label="Light theme"]');
  });

  it("an address without a page says so", async () => {
    for (const path of ["/nowhere", "/runs/999", "/markets/NOPE", "/strategies/999", "/optimizations/999", "/portfolios/999"]) {
      const response = await page.goto(at(path));
      expect(response!.status()).toBe(404);
      expect(await heading()).toBe("There is nothing at this address");
    }
  });

  it("axe finds no serious violation on any page, in either theme", { timeout: 240_000 }, async () => {
    const found: string[] = [];
    const paths = [
      "/markets",
      "/markets/FERRY",
      "/markets/KELP?timeframe=1h&formula=over|plum||sma(close,50)&formula=below|ochre||rsi(14)",
      "/markets/FERRY?compare=KELP,SALT40",
      "/markets/KELP/sources",
      "/markets/KELP/compare?a=5&b=6",
      "/markets/PEAT/quality",
      "/markets/GANET/series",
      "/markets/FERRY/specification",
      "/markets/import",
      "/imports",
      "/calendars",
      "/lists",
      "/library",
      "/strategies/new",
      "/strategies/new?blank=1",
      "/strategies/1?form=words",
      "/strategies/1?look=why&bar=1181174400000",
      "/strategies/1/statement",
      "/definitions",
      "/run-settings",
      "/run-settings/1",
      "/strategies/1?under=ready.double-costs&beside=",
      "/strategies/1",
      "/strategies/1/runs",
      "/strategies/1/optimizations",
      "/strategies/1/evidence",
      "/strategies/1/evidence?probe=7",
      "/strategies/1/evidence?new=walkForward",
      "/strategies/1/evidence/page",
      "/strategies/1/ledger",
      "/cascades",
      "/cascades/3",
      "/cascades/new",
      "/markets/FERRY/sources",
      "/strategies/1/versions",
      "/runs",
      "/runs/1?trade=3",
      "/runs/1/trades",
      "/runs/1/parts",
      "/runs/1/along?show=exposure,positions,costs&formula=atr(14)",
      "/runs/1/against",
      "/runs/1/costs",
      "/runs/1/luck",
      "/runs/compare?runs=1,2",
      "/optimizations",
      "/optimizations/new",
      "/probes",
      "/portfolios",
      "/portfolios/new",
      "/portfolios/choose?count=2&drafts=yes",
      "/portfolios/2/together",
      "/portfolios/2/members",
      "/portfolios/2/what-if",
      "/portfolios/2/edit",
      "/orders?on=2024-11-20",
      "/regimes",
      "/portfolios/1",
      "/help/rules",
    ];
    const look = async (): Promise<void> => {
      const own = await newPage(browser);
      for (let path = paths.shift(); path !== undefined; path = paths.shift()) {
        await go(own.page, at(path));
        found.push(...(await seriousViolations(own.page)).map((violation) => `${path} ${violation}`));
      }
      errors.push(...own.errors);
      await own.page.close();
    };
    // most of the time goes into waiting for pages to come to rest
    await Promise.all([look(), look(), look(), look()]);
    expect(found).toEqual([]);
  });

  it("no page met an error on the way", () => {
    expect(errors).toEqual([]);
  });
});
