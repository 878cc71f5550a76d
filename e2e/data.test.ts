import { spawn, spawnSync, type ChildProcess } from "node:child_process";
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { gunzipSync, gzipSync } from "node:zlib";
import type { Browser, Page } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import {
  byText,
  choose,
  click,
  fill,
  fillField,
  freePort,
  go,
  newPage,
  openBrowser,
  root,
  startServer,
  unseal,
  until,
  type Running,
} from "./harness";

let server: Running;
let feed: ChildProcess;
let feedBase: string;
let browser: Browser;
let page: Page;
let errors: string[];
const files = mkdtempSync(join(tmpdir(), "canyon-data-files-"));

beforeAll(async () => {
  const port = await freePort();
  feedBase = `http://127.0.0.1:${port}`;
  const env = { CANYON_FEED_PORT: String(port), CANYON_FEED_SPEED: "0", CANYON_RETRY_MS: "20" };
  feed = spawn("node", [join(root, "dist/node/feed.js")], { env: { ...process.env, ...env }, stdio: "inherit" });
  server = await startServer({ env });
  await unseal(server, "KELP", "PEAT", "GANET");
  browser = await openBrowser();
  ({ page, errors } = await newPage(browser));
});
afterAll(async () => {
  await browser?.close();
  await server?.stop();
  feed?.kill();
});

const at = (path: string) => server.base + path;
const drawn = () => until(page, '[...document.querySelectorAll("canvas")].some((one) => one.dataset.drawn > 0)');
const readout = () => page.$eval("[data-readout]", (element) => element.textContent ?? "");
const control = (body: object) =>
  fetch(`${feedBase}/control`, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) });

describe("the price chart", () => {
  it("shows any timeframe at a keystroke or typed, and says where its bars come from", async () => {
    await go(page, at("/markets/TIDE"));
    await drawn();
    expect(await readout()).toContain("2024-12-31");
    await page.keyboard.press("1");
    await until(page, 'document.querySelector("[data-readout]")?.textContent.includes("23:59 UTC")');
    expect(await readout()).toContain("from Lighthouse’s 1m bars");
    await fill(page, '[aria-label="Timeframe, typed"]', "90m");
    await page.keyboard.press("Enter");
    await until(page, 'location.search.includes("90m") && document.querySelector("[data-readout]")?.textContent.includes("22:30 UTC")');
    await page.keyboard.press("Tab");
    await go(page, at("/markets/PEAT?timeframe=20m"));
    await until(page, 'document.querySelector("[role=alert]")?.textContent.includes("no source of this market can show this timeframe")');
  });

  it("pans and zooms over a million and a half bars", async () => {
    await go(page, at("/markets/TIDE?timeframe=1m"));
    await drawn();
    await page.focus("canvas");
    for (let k = 0; k < 24; k++) await page.keyboard.press("-");
    await page.keyboard.press("ArrowLeft");
    await page.keyboard.press("Home");
    await page.click('button[aria-label$="read as a table"]');
    expect(await page.$eval("figure tbody tr td", (cell) => cell.textContent)).toBe("2023-01-01");
    await page.click('button[aria-label$="read as a table"]');
  });

  it("draws formulas over and below, keeps them in the address, and says what is wrong with one", async () => {
    await go(page, at("/markets/KELP"));
    await drawn();
    await fillField(page, "Formula", "sma(close, 50)");
    await fillField(page, "Label", "slow");
    await click(page, "button", "Draw it");
    await until(page, 'document.querySelector("[data-readout]")?.textContent.includes("slow")');
    await fillField(page, "Formula", "close > sma(close, 50)");
    await choose(page, "Where", "below the prices");
    await click(page, "button", "Draw it");
    await until(page, '/yes|no$/.test(document.querySelector("[data-readout]")?.textContent ?? "")');
    await page.reload({ waitUntil: "networkidle2" });
    await until(page, 'document.querySelectorAll("canvas").length === 2');
    await fillField(page, "Formula", "smaa(close, 50)");
    await click(page, "button", "Draw it");
    await until(page, 'document.querySelector("[role=alert]")?.textContent.includes("There is no function “smaa”")');
  });

  it("measures between two points, goes to a date, and sets markets beside each other", async () => {
    await go(page, at("/markets/FERRY?at=2015-06-15"));
    await drawn();
    const box = (await (await page.$("canvas"))!.boundingBox())!;
    await page.mouse.move(box.x + 300, box.y + 150);
    await until(page, '/2015-0/.test(document.querySelector("[data-readout]")?.textContent ?? "")');
    await page.keyboard.down("Shift");
    await page.mouse.down();
    await page.mouse.move(box.x + 500, box.y + 220, { steps: 4 });
    await page.mouse.up();
    await page.keyboard.up("Shift");
    expect(await page.$eval("[data-measure]", (element) => element.textContent)).toMatch(/points, .*%, \d+ bars, \d+ days/);
    await choose(page, "Compare with", "KELP Kelp meal");
    await until(page, 'document.querySelector("canvas")?.getAttribute("aria-label") === "FERRY, KELP rebased to 100"');
  });

  it("exports bars of any timeframe, packed or not", async () => {
    const html = await (await fetch(at("/markets/KELP"))).text();
    const [, id] = /\/sources\/(\d+)\/export/.exec(html)!;
    const plain = await (await fetch(at(`/sources/${id}/export?timeframe=1w`))).text();
    expect(plain.split("\n")[0]).toBe("time,open,high,low,close,volume");
    const packed = Buffer.from(await (await fetch(at(`/sources/${id}/export?timeframe=1w&packed=gz`))).arrayBuffer());
    expect(gunzipSync(packed).toString()).toBe(plain);
    const refused = await fetch(at(`/sources/${id}/export?timeframe=1m`));
    expect(refused.status).toBe(400);
    expect(await refused.text()).toContain("same or a coarser timeframe");
  });
});

describe("sources", () => {
  it("are compared; the shifted clock is told", async () => {
    await go(page, at("/markets/KELP/sources"));
    await click(page, "a", "Lighthouse and Breakwater, 1m");
    await until(page, 'document.body.textContent.includes("agree best with Breakwater moved 1 hour earlier")');
    expect(await page.$eval("[data-shift]", (element) => (element as HTMLElement).dataset.shift)).toBe("0");
  });

  it("are updated by button, pick up again after failures, and show revisions before taking them", async () => {
    await control({ forwardHours: 24 * 12 });
    await go(page, at("/markets/PEAT/sources"));
    await control({ manners: { error: 1 } });
    await click(page, "button", "Update now");
    await eventually("/markets/PEAT/sources", (html) => html.includes("answered 503"));
    await control({ manners: { error: 0, duplicate: 0.2 } });
    await go(page, at("/markets/PEAT/sources"));
    await click(page, "button", "Update now");
    await eventually("/markets/PEAT/sources", (html) => !html.includes("answered 503") && html.includes("2026-01-"));
    await control({ manners: { duplicate: 0, revised: 1 } });
    await go(page, at("/markets/PEAT/sources"));
    await click(page, "button", "Update now");
    await eventually("/markets", (html) => html.includes("See what changed"));
    await control({ manners: { revised: 0 } });
    await go(page, at("/markets"));
    await click(page, "a", "See what changed");
    await click(page, "a", "the data service");
    await byText(page, "h2", "Changed bars");
    await click(page, "button", "Keep the bars as they are");
    await until(page, 'location.pathname === "/markets/PEAT/sources"');
  });
});

/** Asks for a page until it shows what it should. */
async function eventually(path: string, shows: (html: string) => boolean): Promise<void> {
  for (let k = 0; k < 600; k++) {
    if (shows(await (await fetch(at(path))).text())) return;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  throw new Error(`${path} does not show it`);
}

describe("the quality report", () => {
  it("is walked by keys; bars are left out and counted again", async () => {
    await go(page, at("/markets/WOOL/quality"));
    await choose(page, "Source", "Breakwater, 1d");
    await until(page, 'document.body.textContent.includes("the close of 2018-02-14 stands")');
    await click(page, "button", "Spikes");
    await until(page, '[...document.querySelectorAll("ul[aria-label=Findings] li")].every((one) => one.textContent.startsWith("Spikes"))');
    await page.focus('ul[aria-label="Findings"] button');
    await page.keyboard.press("ArrowDown");
    await until(page, 'document.body.textContent.includes("See it on the prices")');
    const open = () => page.$eval("[data-open]", (element) => Number((element as HTMLElement).dataset.open));
    const before = await open();
    await fillField(page, "Reason", "a wrong print");
    await click(page, "button", "Leave its bar out");
    await until(page, 'document.body.textContent.includes("Corrections in force")');
    expect(await page.$eval("main", (element) => element.textContent)).toContain("a wrong print");
    await click(page, "button", "Undo");
    await until(page, '!document.body.textContent.includes("Corrections in force")');
    expect(await open()).toBe(before);
    await click(page, "li button", "Spikes");
    await click(page, "button", "Accept");
    await until(page, `document.querySelector("[data-open]")?.dataset.open === "${before - 1}"`);
  });
});

describe("specification, calendars, lists and series", () => {
  it("tell what a tick is worth while typing, and refuse nonsense by field", async () => {
    await go(page, at("/markets/KELP/specification"));
    await fillField(page, "Tick", "0.5");
    await until(page, 'document.querySelector("[data-examples]")?.textContent.includes("One tick is worth 5.00 SKR")');
    await fillField(page, "Tick", "-1");
    await click(page, "button", "Save");
    await until(page, 'document.body.textContent.includes("must be above 0")');
    await fillField(page, "Tick", "0.25");
    await fillField(page, "Sector", "Meal");
    await click(page, "button", "Save");
    await until(page, 'location.search === "?saved=yes"');
    expect(await page.$eval("main", (element) => element.textContent)).toContain("Kelp meal · future · Meal");
  });

  it("change a calendar for all markets that follow it", async () => {
    await go(page, at("/calendars"));
    await fillField(page, "Opens", "25:00");
    await click(page, "button", "Save for 48 markets");
    await until(page, 'document.body.textContent.includes("must be a time of day")');
    await fillField(page, "Opens", "08:30");
    await click(page, "button", "Save for 48 markets");
    await until(page, 'document.body.textContent.includes("08:30–17:30")');
  });

  it("combine lists: these minus those", async () => {
    await go(page, at("/lists?id=new"));
    await fillField(page, "Name", "Fish without herring");
    await page.evaluate(() => {
      const box = document.querySelector<HTMLTextAreaElement>("textarea[name=symbols]")!;
      box.value = "COCKL HERNG NOPE";
    });
    await click(page, "button", "Make it");
    await until(page, 'document.querySelector("[role=alert]")?.textContent.includes("there is no market NOPE")');
    await page.evaluate(() => {
      document.querySelector<HTMLTextAreaElement>("textarea[name=symbols]")!.value = "COCKL HERNG";
    });
    await click(page, "button", "Make it");
    await until(page, 'document.querySelectorAll("[data-list-symbols] li").length === 2');
  });

  it("import dated values beside the prices", async () => {
    const path = join(files, "weather.csv");
    writeFileSync(path, "date,value\n2020-01-01,3\n2020-02-01,4.5\n");
    await go(page, at("/markets/KELP/series"));
    await fillField(page, "Name, as rules", "weather");
    const input = (await page.$('input[type="file"]'))!;
    await (input as unknown as { uploadFile: (path: string) => Promise<void> }).uploadFile(path);
    await click(page, "button", "Import");
    await until(page, 'document.body.textContent.includes("2 values for KELP")');
    await drawn();
  });
});

describe("importing", () => {
  it("reads several files at once, packed ones too, each matched to its market by name", async () => {
    const kelp = await (await fetch(at("/sources/5/export"))).text();
    const rows = kelp.trim().split("\n");
    const [lastDate] = rows[rows.length - 1].split(",");
    const next = new Date(Date.parse(lastDate) + 86_400_000).toISOString().slice(0, 10);
    writeFileSync(
      join(files, "KELP_day.csv.gz"),
      gzipSync(`${rows.slice(-30).join("\n").replace(/^/, `${rows[0]}\n`)}\n${next},130,131,129,130,5\n`),
    );
    writeFileSync(
      join(files, "HALIBUT.csv"),
      `Date;Open;High;Low;Close\n${[3, 4, 5].map((d) => `0${d}/02/2024;1,5;2;1;1,75`).join("\n")}\n`,
    );
    await go(page, at("/markets/import"));
    const input = (await page.waitForSelector('input[type="file"]'))!;
    await (input as unknown as { uploadFile: (...all: string[]) => Promise<void> }).uploadFile(
      join(files, "KELP_day.csv.gz"),
      join(files, "HALIBUT.csv"),
    );
    await byText(page, "nav button", "HALIBUT.csv");
    await click(page, "button", "Import");
    await byText(page, "p", "One question first");
    await click(page, "button", "The day first");
    await fillField(page, "Name", "Halibut");
    await click(page, "button", "Import");
    await until(page, 'location.pathname === "/imports"');
    await until(page, '[...document.querySelectorAll("tbody tr")].filter((row) => /taken$/.test(row.textContent)).length >= 2');
    expect(await (await fetch(at("/markets/HALIBUT/sources"))).text()).toContain("2024-02-05");
    expect(await (await fetch(at("/sources/5/export"))).text()).toContain(`${next},130,131,129,130,5`);
  });

  it("refuses what is too large as soon as it is announced", async () => {
    const own = await startServer({ seed: false, env: { CANYON_UPLOAD_LIMIT: "1000" } });
    const response = await fetch(`${own.base}/uploads?name=big.csv`, {
      method: "POST",
      body: "x".repeat(5000),
      headers: { origin: own.base },
    });
    expect(response.status).toBe(413);
    expect(await response.text()).toContain("larger than");
    await own.stop();
  });
});

describe("strategies on any data", () => {
  it("run on 20-minute bars made of one-minute ones, chosen from a list", async () => {
    await go(page, at("/strategies/new?blank=1&market=KELP"));
    await choose(page, "Timeframe", "20m");
    await page.click('[aria-label="Enter long when"]');
    await page.keyboard.type("close > highest(high, 50) 1 back");
    await until(page, 'Number(document.querySelector("[data-metric=trades]")?.textContent.replace(",", "")) > 5', 40);
    expect(await page.$eval("[data-took]", (element) => element.textContent)).toMatch(/^\d\d,\d{3} bars/);
    await page.select('select[aria-label="Market: from which list"]', await optionOf("of Shipping shares"));
    await choose(page, "Market", "GANET");
    await until(page, 'document.body.textContent.includes("the strategy runs on 20m")');
    await page.select('select[aria-label="Market: from which list"]', "");
  });

  it("use an extra series by its name, in a saved run, too", async () => {
    await go(page, at("/markets"));
    await page.evaluate(() => sessionStorage.clear());
    await go(page, at("/strategies/new?blank=1&market=GANET"));
    await fillField(page, "Name", "Fuller order books");
    await page.click('[aria-label="Enter long when"]');
    await page.keyboard.type('series("backlog") > sma(series("backlog"), 100');
    await until(page, 'Number(document.querySelector("[data-metric=trades]")?.textContent) >= 1', 40);
    await click(page, "button", "Save");
    await until(page, "/^\\/strategies\\/\\d+$/.test(location.pathname)");
    await click(page, "button", "Save run");
    await until(page, "/^\\/runs\\/\\d+$/.test(location.pathname)");
    await click(page, "button", "Compute again");
    await until(page, "/the same|equal/.test(document.body.textContent)");
  });
});

const optionOf = (text: string): Promise<string> =>
  page.evaluate((t) => [...document.querySelectorAll("option")].find((option) => option.textContent === t)!.value, text);

describe("the command line", () => {
  it("imports files into a data folder, all or nothing", async () => {
    const data = mkdtempSync(join(tmpdir(), "canyon-cli-"));
    const canyon = (...args: string[]) =>
      spawnSync("node", [join(root, "scripts/canyon.mjs"), "import", "--data", data, ...args], { encoding: "utf8" });
    const path = join(files, "SPRAT-day.csv");
    const lines = Array.from({ length: 30 }, (_, i) => `2024-01-${String(i + 1).padStart(2, "0")},1,2,0.5,1.5`);
    writeFileSync(path, `date,open,high,low,close\n${lines.join("\n")}\n2024-02-01,x,2,0.5,1.5\n`);
    const create = JSON.stringify({ symbol: "SPRAT", name: "Sprat", kind: "share", currency: "SKR", tick: 0.01, pointValue: 1 });
    const missing = canyon(path);
    expect([missing.status, missing.stdout]).toEqual([1, ""]);
    expect(missing.stderr).toContain("name one with --market");
    const broken = canyon(path, "--create", create);
    expect([broken.status, broken.stderr]).toEqual([1, expect.stringContaining("line 32 left out: open “x” is not a number")]);
    expect(broken.stderr).toContain("nothing was imported: 1 broken lines");
    expect(canyon(path, "--create", create, "--leave-out").stderr).toContain("30 new bars");
    writeFileSync(
      path,
      `date,open,high,low,close\n${lines.join("\n").replace("2024-01-05,1,", "2024-01-05,1.1,")}\n2024-02-01,1,2,0.5,1.5\n`,
    );
    const changed = canyon(path);
    expect([changed.status, changed.stderr]).toEqual([1, expect.stringContaining("1 bars differ")]);
    expect(canyon(path, "--take-changes").stderr).toContain("1 new bars and 1 changed ones in SPRAT");
    const zip = canyon("/nowhere.csv");
    expect([zip.status, zip.stderr]).toEqual([1, expect.stringContaining("there is no such file")]);
  });
});

it("no page met an error on the way", () => {
  expect(errors).toEqual([]);
});
