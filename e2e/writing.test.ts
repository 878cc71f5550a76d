import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Page } from "puppeteer-core";
import { describe, expect, it } from "vitest";
import { byText, choose, click, fill, fillField, go, until, withDemo, type Running } from "./harness";

let server: Running;
let page: Page;
withDemo((demo) => ({ server, page } = demo));
const folder = mkdtempSync(join(tmpdir(), "canyon-writing-"));
const at = (path: string) => `${server.base}${path}`;
const body = (text: string) => `document.body.textContent.includes(${JSON.stringify(text)})`;
const metric = (key: string) => page.$eval(`[data-metric=${key}]`, (element) => element.textContent);
const ready = () => until(page, 'document.querySelector("[data-took]")');

/** A rule's text, in the text form. */
async function textOf(label: string): Promise<string | null> {
  const editor = await page.waitForSelector(`.cm-content[aria-label="${label}"]`);
  return editor!.evaluate((element) => element.textContent);
}

/** Presses a key with others held. */
async function press(...keys: string[]): Promise<void> {
  const last = keys.pop()!;
  for (const key of keys) await page.keyboard.down(key as never);
  await page.keyboard.press(last as never);
  for (const key of keys.reverse()) await page.keyboard.up(key as never);
}

describe("rules as sentences", () => {
  it("show the text's tree; an edit of a part changes the text", async () => {
    await go(page, at("/strategies/1?form=words"));
    await ready();
    const before = await metric("netProfit");
    await page.select('[aria-label="Enter long when"] select[aria-label="what it must do"]', "above");
    await until(page, `document.querySelector("[data-metric=netProfit]").textContent !== ${JSON.stringify(before)}`);
    await click(page, "button", "text");
    expect(await textOf("Enter long when")).toBe("close crosses above highest(high, entry) 1 back");
    await click(page, "button", "sentences");
    await page.waitForSelector('[aria-label="Enter long when: add a condition"]');
  });

  it("take a ready-made condition, switch it off for a try, and move it", async () => {
    await page.click('[aria-label="Enter long when: add a condition"]');
    await page.waitForSelector("[cmdk-input]");
    await page.keyboard.type("Weekly trend");
    await until(page, 'document.querySelector("[cmdk-item][aria-selected=true]")?.textContent.includes("Weekly trend up")');
    await page.keyboard.press("Enter");
    await until(page, 'document.querySelectorAll(\'[aria-label="Enter long when"] li button[aria-label^="Move:"]\').length === 2');
    const rule = async () => {
      await click(page, "button", "text");
      const text = await textOf("Enter long when");
      await click(page, "button", "sentences");
      await page.waitForSelector('[aria-label="Enter long when: add a condition"]');
      return text;
    };
    expect(await rule()).toBe("close crosses above highest(high, entry) 1 back and (close > sma(close, 30)) on 1w");
    const menu = async (entry: string) => {
      await page.click('[aria-label="More for: (close > sma(close, 30)) on 1w"]');
      await click(page, '[role="menuitem"]', entry);
    };
    await menu("Switch off for a try");
    expect(await rule()).toBe("close crosses above highest(high, entry) 1 back and ((close > sma(close, 30)) on 1w or 1 = 1)");
    await menu("Switch on again");
    await menu("Move up");
    expect(await rule()).toBe("(close > sma(close, 30)) on 1w and close crosses above highest(high, entry) 1 back");
    await menu("Take out");
    expect(await rule()).toBe("close crosses above highest(high, entry) 1 back");
  });

  it("are dragged by their handle", async () => {
    await page.click('[aria-label="Enter long when: add a condition"]');
    await page.waitForSelector("[cmdk-input]");
    await page.keyboard.type("volume > 5");
    await until(page, 'document.querySelector("[cmdk-item][aria-selected=true]")?.textContent === "volume > 5"');
    await page.keyboard.press("Enter");
    const handle = (await page.waitForSelector('[aria-label="Move: volume > 5"]'))!;
    const [from, to] = [await handle.boundingBox(), await (await page.$('[aria-label="Enter long when"]'))!.boundingBox()];
    await page.mouse.move(from!.x + 5, from!.y + 5);
    await page.mouse.down();
    await page.mouse.move(from!.x + 5, from!.y - 12, { steps: 4 });
    await page.mouse.move(from!.x + 5, to!.y + 18, { steps: 12 });
    await page.mouse.up();
    await until(
      page,
      'document.querySelector(\'[aria-label="Enter long when"] li button[aria-label^="Move:"]\').getAttribute("aria-label") === "Move: volume > 5"',
    );
  });

  it("count what is tried, set each against the one before, and take an earlier one up again", async () => {
    await until(page, "document.querySelectorAll('ol[aria-label=\"Tries, the newest last\"] li').length >= 2");
    expect(await page.evaluate(body("changed since before (the try before)"))).toBe(true);
    const spent = Number(await page.$eval("[data-trials]", (element) => (element as HTMLElement).dataset.trials));
    await page.focus('[role="slider"][aria-label="exit"]');
    await page.keyboard.press("ArrowLeft");
    await until(page, `Number(document.querySelector("[data-trials]").dataset.trials) > ${spent}`);
    await until(page, body("exit 20 → 15"));
    await click(page, 'ol[aria-label="Tries, the newest last"] button', "as it was");
    await until(page, 'document.querySelector("[role=slider][aria-label=exit]").getAttribute("aria-valuenow") === "20"');
  });
});

describe("rules as text", () => {
  it("offer a fix for a slip, rename a name everywhere, and write a formula as the notation would", async () => {
    await go(page, at("/strategies/2"));
    await ready();
    await fill(page, '[aria-label="Enter long when"]', "quick crosses above clam");
    await page.keyboard.press("Escape");
    await click(page, "button", "write calm");
    await until(page, 'document.querySelector(\'[aria-label="Enter long when"]\').textContent === "quick crosses above calm"');
    await page.keyboard.press("F2");
    await page.waitForSelector('input[aria-label="New name"]');
    await fill(page, 'input[aria-label="New name"]', "slowLine");
    await page.keyboard.press("Enter");
    await until(page, 'document.querySelector(\'[aria-label="Enter short when"]\').textContent === "quick crosses below slowLine"');
    await fill(page, '[aria-label="Exit long when"]', "((close))>   sma( close,9");
    await page.keyboard.press("Escape");
    await press("Shift", "Alt", "f");
    await until(page, 'document.querySelector(\'[aria-label="Exit long when"]\').textContent === "close > sma(close, 9)"');
    await fill(page, '[aria-label="Exit long when"]', "stochastic(14, ");
    await until(page, 'document.querySelector(".cm-argument-hint strong")?.textContent.startsWith("k")');
    await fill(page, '[aria-label="Exit long when"]', "");
  });
});

describe("the whole shape of a strategy", () => {
  it("is filled in by forms: orders, trails, the clock, ranking; what makes no sense can't be saved and says why", async () => {
    await go(page, at("/strategies/new?blank=1&market=FERRY"));
    await fillField(page, "Name", "Everything at once");
    await fill(page, '[aria-label="Enter long when"]', "close > sma(close, 20)");
    await page.keyboard.press("Escape");
    await page.select('select[aria-label="Enter long with"]', "stop");
    await until(page, 'document.querySelector(\'[aria-label="long: price of the stop order"]\').textContent === "highest(high, 20)"');
    const add = async (name: string) => {
      await click(page, "button", "+ Exit by stop");
      await click(page, '[role="menuitem"]', name);
    };
    await add("Trailing stop");
    await add("Stop to break-even");
    await add("On a weekday");
    await add("After a number of bars");
    await ready();
    expect(Number(await metric("trades"))).toBeGreaterThan(20);
    await page.select('select[aria-label="Trailing stop, measured in"]', "r");
    await ready();
    await page.click('button[aria-label="Take out: Stop loss"]');
    await until(page, body("r needs a stop loss"));
    expect(await (await byText(page, "button", "Save")).evaluate((b) => (b as HTMLButtonElement).disabled)).toBe(true);
    await click(page, "button", "Undo");
    await click(page, "button", "Save");
    await until(page, "/^\\/strategies\\/\\d+$/.test(location.pathname)");
    const file = await page.evaluate(
      async () => (await fetch(`${location.pathname}/file.json`)).json() as Promise<Record<string, unknown>>,
    );
    expect(file).toMatchObject({
      format: "canyon.strategy/1",
      long: { enter: { order: { type: "stop", price: "highest(high, 20)", workingBars: 3 } } },
      protect: { trail: { unit: "r" }, breakeven: { unit: "percent" }, exitWeekday: { weekday: 5 }, maxBarsHeld: 10 },
    });
    writeFileSync(join(folder, "everything.json"), JSON.stringify({ ...file, name: "From a file" }));
  });

  it("comes back from a file, and is refused from a wrong one with the place", async () => {
    await go(page, at("/strategies/new"));
    const input = (await page.$('input[aria-label="Strategy file"]'))! as never as { uploadFile: (path: string) => Promise<void> };
    writeFileSync(
      join(folder, "wrong.json"),
      JSON.stringify({ format: "canyon.strategy/1", timeframe: "1d", sizing: { mode: "units" }, longs: {} }),
    );
    await input.uploadFile(join(folder, "wrong.json"));
    await until(page, body("“longs” isn't a key here"));
    await input.uploadFile(join(folder, "everything.json"));
    await ready();
    await click(page, "button", "Save");
    await byText(page, "h1", "From a file");
    await go(page, `${page.url().split("?")[0]}/statement`);
    expect(await page.$eval("article", (element) => element.textContent)).toContain(
      "buy with a stop order at highest high of 20 bars, working for 3 bars",
    );
  });
});

describe("variants", () => {
  it("are tried by a keystroke, and stand side by side with their figures", async () => {
    await go(page, at(`/strategies/new?start=${encodeURIComponent("Twenty entries, one exit")}`));
    await ready();
    const before = await metric("trades");
    await press("Alt", "ArrowDown");
    await until(page, body("now channel of forty"));
    await until(page, `document.querySelector("[data-metric=trades]").textContent !== ${JSON.stringify(before)}`);
    const now = await metric("trades");
    await click(page, "button", "Side by side");
    await until(
      page,
      '![...document.querySelectorAll(\'[aria-label="Variants of trigger, side by side"] td\')].some((cell) => cell.textContent === "…")',
    );
    const rows = await page.$$eval('[aria-label="Variants of trigger, side by side"] tbody tr', (all) =>
      all.map((row) => row.lastElementChild!.textContent),
    );
    expect(rows).toHaveLength(20);
    expect([rows[2], rows[3]]).toEqual([before, now]);
    await click(page, '[aria-label="Variants of trigger, side by side"] button', "10 MACD turns");
    await until(page, `document.querySelector("[data-metric=trades]").textContent === ${JSON.stringify(rows[9])}`);
    await click(page, "button", "Save");
    await until(page, "/^\\/strategies\\/\\d+$/.test(location.pathname)");
    await until(page, 'Number(document.querySelector("[data-trials]")?.dataset.trials) >= 20');
  });
});

describe("why here", () => {
  it("takes every rule apart at a bar, walks by keys, and leads from near miss to near miss", async () => {
    await click(page, "button", "prices, and why");
    await byText(page, "h2", "Why here?");
    await until(page, 'document.querySelector("canvas")');
    await page.keyboard.press("ArrowLeft");
    await until(page, 'new URLSearchParams(location.search).has("bar")');
    await until(page, "document.querySelector(\"[aria-label='Why here'] [data-value]\")");
    const bar = () => page.evaluate(() => Number(new URLSearchParams(location.search).get("bar")));
    const first = await bar();
    await page.keyboard.press("ArrowUp");
    await until(page, `Number(new URLSearchParams(location.search).get("bar")) < ${first}`);
    // the bar before an entry is the one whose close said yes
    await until(page, body("enter long: yes"));
    await page.keyboard.press("n");
    await until(page, body("only this was missing"));
    const values = await page.$$eval("[aria-label='Why here'] [data-value]", (all) =>
      all.map((one) => (one as HTMLElement).dataset.value!),
    );
    expect(values.filter((value) => value === "no").length).toBeGreaterThan(0);
    expect(values.some((value) => /^\d/.test(value))).toBe(true);
    await page.keyboard.press("e");
    await until(page, "document.querySelector(\"[aria-label='Why here'] input[type=checkbox]\").checked");
    const address = page.url();
    await page.reload({ waitUntil: "networkidle2" });
    await until(page, body("only this was missing"));
    expect(page.url()).toBe(address);
    await click(page, "button", "back to the rules");
    await ready();
  });
});

describe("versions", () => {
  it("carry notes, say in words what changed, are audited, restored and branched", async () => {
    await go(page, at("/strategies/1"));
    await ready();
    if (await page.evaluate(body("An unsaved change was brought back."))) await click(page, "button", "Discard it");
    await page.focus('[role="slider"][aria-label="entry"]');
    await page.keyboard.press("ArrowLeft");
    await until(page, body("version 1, changed"));
    await click(page, "button", "Save as version 2");
    await until(page, 'document.querySelector("[role=dialog]")?.textContent.includes("entry: 40 → 35")');
    await page.keyboard.type("quicker in");
    await page.keyboard.press("Enter");
    await until(page, body("version 2 ·"));
    await go(page, at("/strategies/1/versions"));
    expect(await page.$eval('[aria-label="Note of version 2"]', (element) => (element as HTMLInputElement).value)).toBe("quicker in");
    for (let tries = 0; tries < 40 && (await page.$("[data-audit]")) === null; tries++) await page.reload({ waitUntil: "networkidle2" });
    expect(await page.$eval("[data-audit]", (element) => element.textContent)).toContain("Does not look ahead: 24 cuts of FERRY");
    await fill(page, '[aria-label="Note of version 1"]', "the baseline");
    await page.keyboard.press("Enter");
    await click(page, "button", "Make it the newest");
    await byText(page, "h2", "Version 3");
    expect(await page.$eval('[aria-label="Note of version 1"]', (element) => (element as HTMLInputElement).value)).toBe("the baseline");
    await choose2("From version", "1");
    await until(page, body("Nothing differs."));
    await click(page, "button", "Branch");
    await until(page, "/^\\/strategies\\/\\d+$/.test(location.pathname) && location.pathname !== '/strategies/1'");
    await byText(page, "h1", "Ferry channel, branch");
  });

  const choose2 = (label: string, value: string) => page.select(`select[aria-label="${label}"]`, value);
});

describe("definitions", () => {
  it("of one's own are written, found where rules are written, taken out and put back, and shared as a file", async () => {
    await go(page, at("/definitions"));
    await click(page, "button", "New definition");
    await fillField(page, "Title", "Harbour calm");
    await fillField(page, "Name in rules", "harbourCalm");
    await choose(page, "Kind", "regime");
    await page.click('[aria-label="Formula of the definition"]');
    await page.keyboard.type("natr(14) < 1.2");
    await page.keyboard.press("Escape");
    await click(page, "button", "Save");
    await until(page, body("harbourCalm, your own"));
    const file = await page.evaluate(async () => (await fetch("/definitions/file.json")).text());
    expect(JSON.parse(file)).toMatchObject({
      format: "canyon.definitions/1",
      definitions: [{ name: "harbourCalm", rule: "natr(14) < 1.2" }],
    });
    writeFileSync(join(folder, "definitions.json"), file.replace("1.2", "1.5"));
    await click(page, "button", "Take out");
    await until(page, `!${body("harbourCalm, your own")}`);
    await click(page, "button", "Undo");
    await until(page, body("harbourCalm, your own"));
    const input = (await page.$('input[aria-label="File of definitions"]'))! as never as { uploadFile: (path: string) => Promise<void> };
    await input.uploadFile(join(folder, "definitions.json"));
    await until(page, body("natr(14) < 1.5"));
    expect(readFileSync(join(folder, "definitions.json"), "utf8")).toContain("natr(14) < 1.5");
    await go(page, at("/strategies/3?form=words"));
    await ready();
    await page.click('[aria-label="Enter long when: add a condition"]');
    await page.waitForSelector("[cmdk-input]");
    await page.keyboard.type("Harbour calm");
    await until(page, 'document.querySelector("[cmdk-item][aria-selected=true]")?.textContent.includes("Harbour calm")');
    await page.keyboard.press("Escape");
  });
});
