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

/** Starts an optimization over three names that takes some seconds; the finer the stop's step, the longer. */
async function startLong(step: "1" | "0.25") {
  await go(page, at("/optimizations/new?version=1"));
  await page.evaluate(() => [...document.querySelectorAll<HTMLInputElement>("input[type=checkbox]")][2].click());
  await range("entry", "10", "80", "1");
  await range("exit", "5", "40", "1");
  await range("stopDistance", "1", step === "1" ? "4" : "6", step);
  await click(page, "button", "Start");
  await until(page, "/^\\/optimizations\\/\\d+$/.test(location.pathname)");
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
    // the table holds what is in view
    expect(rows).toBeGreaterThan(15);
    expect(rows).toBeLessThan(total);
    expect(await page.$eval("[data-rows]", (element) => Number((element as HTMLElement).dataset.rows))).toBe(total);
  });

  it("sorts its trials on the server, with the order in the address", async () => {
    const nets = () =>
      page.$$eval('[aria-label="Trials"] tr[data-trial] td:nth-child(6)', (all) =>
        all.map((cell) => Number(cell.textContent!.replace("−", "-").replace(/[,+]/g, ""))),
      );
    await click(page, "th button", "net profit");
    await until(page, 'location.search.includes("sort=-netProfit")');
    await until(page, 'document.querySelector("th[aria-sort=descending]")?.textContent.startsWith("net profit")');
    await page.waitForSelector('[aria-label="Trials"][aria-busy="false"]');
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
      [2, 3, 5, 6].map((i) => row.children[i].textContent!),
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
    const text = await page.$eval("main", (element) => element.textContent);
    expect(text).toContain("Version 2");
    const notes = await page.$$eval("main input", (all) => all.map((input) => input.value));
    expect(notes.some((note) => /^values of trial \d+ of optimization 1$/.test(note))).toBe(true);
  });

  it("filters its trials on the server and keeps the filter in the address; figures are chosen", async () => {
    await go(page, at("/optimizations/1"));
    const rows = () => page.$eval("[data-rows]", (element) => Number((element as HTMLElement).dataset.rows));
    const all = await rows();
    await choose(page, "Filter by", "Closed trades");
    await fillField(page, "Closed trades from", "60");
    await until(page, 'location.search.includes("f=trades%7E60%7E")');
    await until(page, `Number(document.querySelector("[data-rows]").dataset.rows) < ${all}`);
    const trades = await page.$$eval('[aria-label="Trials"] tr[data-trial] td:nth-child(7)', (cells) =>
      cells.map((cell) => Number(cell.textContent)),
    );
    expect(trades.length).toBeGreaterThan(0);
    expect(Math.min(...trades)).toBeGreaterThanOrEqual(60);
    await page.click('[aria-label="Take the filter on Closed trades off"]');
    await until(page, `Number(document.querySelector("[data-rows]").dataset.rows) === ${all}`);
    await click(page, "button", "choose figures");
    await click(page, "label", "Win rate, %");
    await click(page, "button", "Done");
    await until(page, '[...document.querySelectorAll("[aria-label=Trials] th")].some((th) => th.textContent.startsWith("win rate"))');
    await page.reload({ waitUntil: "networkidle2" });
    await until(page, '[...document.querySelectorAll("[aria-label=Trials] th")].some((th) => th.textContent.startsWith("win rate"))');
  });

  it("walks by keys, sets picked trials beside each other, tests them again more finely, and takes one over", async () => {
    await go(page, at("/optimizations/1"));
    await page.focus('[aria-label="Trials"]');
    await page.keyboard.press("ArrowDown");
    await page.keyboard.press("Space");
    await until(page, 'location.search.includes("pick=")');
    await page.keyboard.press("ArrowDown");
    await page.keyboard.press("Space");
    await until(page, "/pick=\\d+%2C\\d+/.test(location.search)");
    const [first] = await page.$$eval('[aria-label="Trials"] tr[data-trial]', (all) =>
      all.map((row) => (row as HTMLElement).dataset.trial!),
    );
    await page.keyboard.press("t");
    await until(page, 'location.pathname === "/optimizations/1/compare"');
    await until(page, 'document.querySelectorAll("[data-finer]").length >= 12', 60);
    const heads = await page.$$eval('[aria-label="Figures of the trials"] thead th', (all) => all.map((head) => head.textContent));
    expect(heads.slice(1)).toEqual(["as it stands", `trial ${first}`, expect.stringMatching(/^trial \d+$/)]);
    // no costs make more, and what is as set stands in both tables
    const of = (name: string) =>
      page.$$eval(
        '[aria-label="Trials under other run settings"] tbody tr',
        (all, wanted) => {
          const row = all.find((one) => one.children[0].textContent!.startsWith(wanted))!;
          return Number((row.children[2].querySelector("[data-finer]") as HTMLElement).dataset.finer);
        },
        name,
      );
    expect(await of("No costs")).toBeGreaterThan(await of("as set"));
    expect(await of("Double costs")).toBeLessThan(await of("as set"));
    expect(await seriousViolations(page)).toEqual([]);
    // version 2 was saved meanwhile: taking over on top of version 1 is refused with the way out
    await click(page, "button", "Take over as a version");
    await until(page, 'document.querySelector("[role=alert]")?.textContent.includes("version 2 was saved meanwhile")');
  });

  it("shows any two of several names on the map, and filters by a stretch drawn on an axis", async () => {
    await go(page, at("/optimizations/new?version=1"));
    await page.evaluate(() => [...document.querySelectorAll<HTMLInputElement>("input[type=checkbox]")][2].click());
    await range("entry", "20", "60", "10");
    await range("exit", "10", "30", "5");
    await range("stopDistance", "2", "4", "0.5");
    await click(page, "button", "Start");
    await until(page, "/^\\/optimizations\\/\\d+$/.test(location.pathname)");
    await until(page, 'document.querySelector("svg[data-lines]")', 60);
    await choose(page, "Name up the map", "stopDistance");
    await until(page, "document.querySelector('canvas[aria-label$=\"by entry and stopDistance\"]')?.dataset.drawn > 0");
    await choose(page, "The other names on the map", "the others fixed");
    await choose(page, "exit on the map", "exit 10");
    await until(page, 'decodeURIComponent(location.search).includes("at=exit:10")');
    const axis = (await page.$('rect[data-axis="stopDistance"]'))!;
    await axis.evaluate((element) => element.scrollIntoView({ block: "center" }));
    const box = (await axis.boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + 1);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width / 2, box.y + box.height * 0.3, { steps: 4 });
    await page.mouse.up();
    await until(page, 'decodeURIComponent(location.search).includes("f=stopDistance~")');
    await until(page, 'document.querySelector("[data-rows]").dataset.rows === "50"');
  });

  it("is repeated on permuted bars, which the ledger does not count", async () => {
    await fillField(page, "Repetitions", "0");
    await click(page, "button", "Repeat it on permuted bars");
    await until(page, 'document.querySelector("[role=alert]")?.textContent.includes("from 1 to 1000")');
    await fillField(page, "Repetitions", "4");
    await click(page, "button", "Repeat it on permuted bars");
    await until(page, 'document.querySelector("[data-permuted]")?.dataset.permuted === "4"', 60);
    expect(await page.$eval("[data-permuted]", (element) => element.textContent)).toMatch(/reached the real one in \d of 4/);
  });

  it("is stored as a plan, run again on other dates without its best trades, and set beside the first", async () => {
    const id = new URL(page.url()).pathname.split("/").at(-1);
    await go(page, at(`/optimizations/new?like=${id}&withoutBest=2`));
    await fillField(page, "Name of the plan", "Without two");
    await click(page, "button", "Store");
    await until(page, 'location.search.includes("plan=")');
    await go(page, page.url());
    expect(await page.$eval('[aria-label="exit, to"]', (element) => (element as HTMLInputElement).value)).toBe("30");
    await click(page, "button", "Start");
    await until(page, "/^\\/optimizations\\/\\d+$/.test(location.pathname)");
    await until(page, 'document.querySelector("[data-state=done]")', 60);
    const head = await page.$eval("main header", (element) => element.textContent);
    expect(head).toContain("without the 2 best trades of every trial");
    expect(head).toContain("plan “Without two”");
    await click(page, "a", "Beside another");
    await until(page, 'location.pathname === "/optimizations/beside"');
    await choose(page, "Beside", "no. 2");
    await until(page, 'document.querySelector("[data-shared]")?.dataset.shared === "125"');
    expect(await page.$eval("main", (element) => element.textContent)).toContain("agree in rank with a correlation of");
    expect(await seriousViolations(page)).toEqual([]);
    await go(page, at("/optimizations"));
    await click(page, "a", "Without two");
    await click(page, "button", "Take out");
    await click(page, "button", "Put it back");
    await until(page, 'fetch("/optimizations").then((answer) => answer.text()).then((html) => html.includes("Without two"))');
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
    const fits = await page.$$eval('[aria-label="Trials"] tr[data-trial]', (all) => all.map((row) => Number(row.children[2].textContent!)));
    expect(fits[0]).toBeGreaterThan(50);
    const known = fits.filter((fit) => !Number.isNaN(fit));
    expect([...known].sort((a, b) => b - a)).toEqual(known);
  });

  it("goes on when its page is closed, and ends with every trial", { timeout: 420_000 }, async () => {
    await startLong("1");
    const path = new URL(page.url()).pathname;
    await until(page, "Number(document.querySelector('[data-done]')?.dataset.done) >= 400", 60);
    await page.goto("about:blank");
    // a page that draws slowly must not stop asking how far the job is
    await page.emulateCPUThrottling(4);
    await go(page, at(path));
    await until(page, 'document.querySelector("[data-state=done]")', 330);
    await page.emulateCPUThrottling(null);
    expect(await done()).toBe(71 * 36 * 4);
    const csv = await page.evaluate(async (p) => (await fetch(`${p}/trials.csv`)).text(), path);
    const numbers = csv
      .trim()
      .split("\n")
      .slice(1)
      .map((line) => Number(line.split(",")[0]));
    expect(numbers).toEqual(Array.from({ length: 71 * 36 * 4 }, (_, i) => i));
  });

  it("waits in a queue whose order and share of the processor can be changed", async () => {
    await startLong("0.25");
    await startLong("0.25");
    await go(page, at("/jobs"));
    const states = () =>
      page.$$eval("tr[data-job]", (all) => all.map((row) => [(row as HTMLElement).dataset.job, row.children[1].textContent]));
    await until(page, 'document.querySelectorAll("tr[data-job]").length === 2');
    const [[one], [two]] = await states();
    await until(page, 'document.querySelector("nav").textContent.includes("2 jobs running")');
    await until(page, `document.querySelector('tr[data-job="${two}"]').children[1].textContent === "queued"`);
    // the second one goes first, and the first waits for it
    await page.click(`tr[data-job="${two}"] button[aria-label$=": sooner"]`);
    await until(page, `document.querySelector('tr[data-job="${two}"]').children[1].textContent === "running"`);
    await until(page, `document.querySelector('tr[data-job="${one}"]').children[1].textContent === "queued"`);
    await page.click(`tr[data-job="${two}"] [role="combobox"]`);
    await click(page, '[role="option"]', "1 of");
    await until(page, `document.querySelector('tr[data-job="${two}"] [role="combobox"]').textContent.includes("1 of")`);
    expect(await seriousViolations(page)).toEqual([]);
    for (const job of [one, two]) {
      await page.click(`tr[data-job="${job}"] button[value="cancel"]`);
      await until(page, `document.querySelector('tr[data-job="${job}"]') === null`);
    }
    await byText(page, "h2", "Nothing is running");
  });

  it("can be cancelled; its trials stay", async () => {
    await startLong("0.25");
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
