import type { Browser, Page } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { seriousViolations } from "./axe";
import { byText, choose, click, fill, fillField, go, liveMetric, newPage, openBrowser, startServer, until, type Running } from "./harness";

let server: Running;
let browser: Browser;
let page: Page;
let errors: string[];

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
const done = () => page.$eval("[data-done]", (element) => Number((element as HTMLElement).dataset.done));

async function range(name: string, from: string, to: string, step: string) {
  await fill(page, `[aria-label="${name}, from"]`, from);
  await fill(page, `[aria-label="${name}, to"]`, to);
  await fill(page, `[aria-label="${name}, step"]`, step);
}

describe("an optimization", () => {
  it("is refused with the reason while its set-up makes no sense", async () => {
    await go(page, at("/optimizations/new?version=1"));
    await range("entry", "40", "20", "5");
    await until(page, 'document.body.textContent.includes("the range of entry holds no value")');
    await range("entry", "10", "80", "0");
    await until(page, 'document.body.textContent.includes("the step must be above 0")');
    await range("entry", "1", "1000000", "1");
    await range("exit", "1", "1000000", "1");
    await until(page, 'document.body.textContent.includes("this makes 1,000,000,000,000 combinations")');
    expect(await (await byText(page, "button", "Start")).evaluate((b) => (b as HTMLButtonElement).disabled)).toBe(true);
  });

  it("is refused by the server for a condition that can't be", async () => {
    await range("entry", "10", "80", "5");
    await range("exit", "5", "40", "5");
    await fillField(page, "Only combinations for which", "close > entry");
    await click(page, "button", "Start");
    await until(page, 'document.querySelector("[role=alert]")?.textContent.includes("parameters only")');
  });

  it("runs with live progress, and shows table and map", async () => {
    await fillField(page, "Only combinations for which", "exit < entry");
    await click(page, "button", "How long?");
    await until(page, 'Number(document.querySelector("[data-measured]")?.dataset.measured) > 0');
    expect(await page.$eval("main", (element) => element.textContent)).toMatch(/Trials trade up to \d{4}-\d{2}-\d{2}/);
    await click(page, "button", "Start");
    await until(page, "/^\\/optimizations\\/\\d+$/.test(location.pathname)");
    await until(page, 'document.querySelector("[data-state=done]")', 90);
    const total = await done();
    expect(total).toBeGreaterThan(80);
    expect(total).toBeLessThan(120);
    await until(page, 'document.querySelector("canvas")?.dataset.drawn > 0');
    const rows = await page.$$eval('[aria-label="Trials"] tr[data-trial]', (all) => all.length);
    expect(rows).toBe(60);
  });

  it("sorts its trials on the server, with the order in the address", async () => {
    const nets = () =>
      page.$$eval('[aria-label="Trials"] tr[data-trial] td:nth-child(4)', (all) =>
        all.map((cell) => Number(cell.textContent!.replace("−", "-").replace(/[,+]/g, ""))),
      );
    await click(page, "th button", "net profit");
    await until(page, 'location.search.includes("sort=-netProfit")');
    await until(page, 'document.querySelector("th[aria-sort=descending]")?.textContent.startsWith("net profit")');
    const falling = await nets();
    expect([...falling].sort((a, b) => b - a)).toEqual(falling);
    const csv = await page.evaluate(async () => (await fetch(`${location.pathname}/trials.csv`)).text());
    expect(csv.split("\n")[0]).toMatch(/^trial,entry,exit,fit,netProfit/);
    expect(csv.trim().split("\n").length).toBe((await done()) + 1);
  });

  it("sets the peak beside the middle of the plateau and the version as it stands, and says what the middle costs", async () => {
    await page.waitForSelector('[aria-label="The peak and the middle"] tbody tr');
    const rows = await page.$$eval('[aria-label="The peak and the middle"] tbody tr', (all) =>
      all.map((row) => row.children[0].textContent!),
    );
    expect(rows[0]).toBe("as it stands");
    expect(rows[1]).toMatch(/^the peak, trial \d+/);
    expect(rows[2]).toMatch(/^the middle, trial \d+/);
    const text = await page.$eval("main", (element) => element.textContent!);
    expect(text).toMatch(/explains \d+ % of the spread of the fits/);
    await choose(page, "Figure along", "Closed trades");
    await until(page, 'location.search.includes("x=trades")');
    await until(page, "document.querySelector('canvas[aria-label^=\"Trials by Closed trades and\"]')?.dataset.drawn > 0");
    await click(page, "button", "Ask");
    await until(page, 'Number(document.querySelector("[data-pbo]")?.dataset.pbo) >= 0', 60);
    expect(await page.$eval("main", (element) => element.textContent)).toContain("that were spent on this line");
    expect(await seriousViolations(page)).toEqual([]);
  });

  it("opens a trial as a backtest whose figures are the trial's, and takes its values over as a version", async () => {
    await go(page, page.url().replace(/\?.*/, ""));
    const [entry, exit, net, trades] = await page.$eval('[aria-label="Trials"] tr[data-trial]', (row) =>
      [1, 2, 3, 4].map((i) => row.children[i].textContent!),
    );
    await page.click('[aria-label="Trials"] tr[data-trial] a');
    await until(page, 'location.pathname === "/strategies/1" && document.querySelector("[data-metric=trades]")');
    await until(page, `document.querySelector("[data-metric=trades]").textContent === ${JSON.stringify(trades)}`);
    expect(await liveMetric(page, "netProfit")).toBe(net);
    expect(await page.$eval('[role="slider"][aria-label="entry"]', (element) => element.getAttribute("aria-valuenow"))).toBe(entry);
    expect(await page.$eval('[role="slider"][aria-label="exit"]', (element) => element.getAttribute("aria-valuenow"))).toBe(exit);
    await click(page, "button", "Save as version 2");
    await click(page, "button", "Save version 2");
    await until(page, 'document.body.textContent.includes("version 2 ·")');
    await go(page, at("/strategies/1/versions"));
    expect(await page.$eval("main", (element) => element.textContent)).toContain("Version 2");
  });

  it("searches by evolution with several objectives", async () => {
    await go(page, at("/optimizations/new?version=1"));
    await range("entry", "10", "80", "1");
    await range("exit", "5", "40", "1");
    await choose(page, "Combinations that are tried", "evolution");
    await fillField(page, "Population", "1");
    await until(page, '[...document.querySelectorAll("button")].find((b) => b.textContent === "Start").disabled === false');
    await click(page, "button", "Start");
    await until(page, 'document.querySelector("[role=alert]")?.textContent.includes("must be at least 2")');
    await fillField(page, "Population", "30");
    await fillField(page, "Generations", "6");
    await click(page, "button", "And another");
    await choose(page, "Objective 2", "least max drawdown, %");
    await click(page, "button", "Start");
    await until(page, "/^\\/optimizations\\/\\d+$/.test(location.pathname)");
    await until(page, 'document.querySelector("[data-state=done]")', 90);
    const made = await done();
    expect(made).toBeGreaterThan(40);
    expect(made).toBeLessThanOrEqual(180);
    const text = await page.$eval("main", (element) => element.textContent!);
    expect(text).toContain("evolution");
    expect(text).toContain("most profit ÷ drawdown (1.0) and least max drawdown (1.0)");
    await page.waitForSelector('[aria-label="The peak and the middle"] tbody tr');
    const fits = await page.$$eval('[aria-label="Trials"] tr[data-trial]', (all) => all.map((row) => Number(row.children[1].textContent!)));
    expect(fits[0]).toBeGreaterThan(50);
    const known = fits.filter((fit) => !Number.isNaN(fit));
    expect([...known].sort((a, b) => b - a)).toEqual(known);
  });

  it("survives closing the page and kill -9 of the server, and ends with every trial", async () => {
    await go(page, at("/optimizations/new?version=1"));
    await page.evaluate(() => [...document.querySelectorAll<HTMLInputElement>("input[type=checkbox]")][2].click());
    await range("entry", "10", "80", "1");
    await range("exit", "5", "40", "1");
    await range("stopDistance", "1", "4", "1");
    await click(page, "button", "Start");
    await until(page, "/^\\/optimizations\\/\\d+$/.test(location.pathname)");
    const path = new URL(page.url()).pathname;
    await until(page, "Number(document.querySelector('[data-done]')?.dataset.done) >= 400", 60);
    expect(await page.$eval("nav", (element) => element.textContent)).toContain("job running");
    await page.goto("about:blank");
    await server.stop("SIGKILL");
    server = await startServer({ data: server.data, seed: false, port: server.port });
    await go(page, at(path));
    const kept = await done();
    expect(kept).toBeGreaterThanOrEqual(400);
    await until(page, 'document.querySelector("[data-state=done]")', 90);
    expect(await done()).toBe(71 * 36 * 4);
    const csv = await page.evaluate(async (p) => (await fetch(`${p}/trials.csv`)).text(), path);
    const numbers = csv
      .trim()
      .split("\n")
      .slice(1)
      .map((line) => Number(line.split(",")[0]));
    expect(numbers).toEqual(Array.from({ length: 71 * 36 * 4 }, (_, i) => i));
  });

  it("can be cancelled; its trials stay", async () => {
    await go(page, at("/optimizations/new?version=1"));
    await page.evaluate(() => [...document.querySelectorAll<HTMLInputElement>("input[type=checkbox]")][2].click());
    await range("entry", "10", "80", "1");
    await range("exit", "5", "40", "1");
    await range("stopDistance", "1", "6", "0.25");
    await click(page, "button", "Start");
    await until(page, "Number(document.querySelector('[data-done]')?.dataset.done) >= 200", 60);
    await click(page, "button", "Pause");
    await until(page, 'document.querySelector("[data-state=paused]")', 60);
    const paused = await done();
    await page.reload({ waitUntil: "networkidle2" });
    expect(await done()).toBe(paused);
    await click(page, "button", "Resume");
    await until(page, `Number(document.querySelector("[data-done]")?.dataset.done) > ${paused}`, 60);
    await click(page, "button", "Cancel");
    await until(page, 'document.querySelector("[data-state=cancelled]")', 60);
    const kept = await done();
    expect(kept).toBeGreaterThanOrEqual(200);
    expect(kept).toBeLessThan(71 * 36 * 21);
    await go(page, at("/library"));
    expect(await page.$eval("nav", (element) => element.textContent)).not.toContain("job running");
  });

  it("met no error on the way", () => {
    expect(errors.filter((error) => !/ERR_CONNECTION_REFUSED|Failed to fetch/.test(error))).toEqual([]);
  });
});
