import type { Page } from "puppeteer-core";
import { describe, expect, it } from "vitest";
import { byText, choose, click, fillField, go, liveMetric, until, withDemo, type Running } from "./harness";

let server: Running;
let page: Page;
withDemo((demo) => ({ server, page } = demo));
const at = (path: string) => `${server.base}${path}`;
const TABLE = '[aria-label="The strategy under other run settings"]';
const ready = 'document.querySelector("[data-took]")';

const field = (label: string): Promise<string> =>
  page.evaluate(
    (l) =>
      (document.getElementById([...document.querySelectorAll("label")].find((one) => one.textContent === l)!.htmlFor) as HTMLInputElement)
        .value,
    label,
  );

describe("run settings under a name", () => {
  it("are written in a form of their own, refused while they make no sense, and saved as versions that say what changed", async () => {
    await go(page, at("/run-settings/new"));
    expect(await (await byText(page, "button", "Save")).evaluate((b) => (b as HTMLButtonElement).disabled)).toBe(true);
    await fillField(page, "Name", "Threefold");
    await until(page, 'document.body.textContent.includes("these run settings fix nothing yet")');
    await choose(page, "Costs", "those at hand, times");
    await fillField(page, "Times", "much");
    await until(page, 'document.body.textContent.includes("“much” is not a number")');
    await fillField(page, "Times", "3");
    await until(page, '[...document.querySelectorAll("dd")].some((one) => one.textContent === "those at hand, times 3")');
    await click(page, "button", "Save");
    await until(page, "/^\\/run-settings\\/\\d+$/.test(location.pathname)");
    await byText(page, "h1", "Threefold");
    await choose(page, "Dates", "from … to");
    await fillField(page, "Note: why", "the years since the quay was built");
    await page.evaluate(() => {
      const id = [...document.querySelectorAll("label")].find((one) => one.textContent === "From")!.htmlFor;
      const input = document.getElementById(id) as HTMLInputElement;
      Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")!.set!.call(input, "2012-01-01");
      input.dispatchEvent(new Event("input", { bubbles: true }));
    });
    await click(page, "button", "Save as version 2");
    await byText(page, "h3", "Version 2");
    const versions = await page.$eval("ol", (list) => list.textContent);
    expect(versions).toContain("the years since the quay was built");
    expect(versions).toContain("dates: from 2012-01-01 added");
  });

  it("lie over a strategy's settings by name; what they leave open is changed beside them, what they fix takes them off", async () => {
    await go(page, at("/strategies/1"));
    await until(page, ready);
    const [before, spread] = [await liveMetric(page, "netProfit"), Number(await field("Spread, ticks"))];
    await choose(page, "Run settings", "Threefold, version 2");
    await until(page, "/under=\\d+\\.2/.test(location.search)");
    await until(page, `document.querySelector("[data-metric=netProfit]").textContent !== ${JSON.stringify(before)}`);
    expect(Number(await field("Spread, ticks"))).toBe(3 * spread);
    expect(await field("From")).toBe("2012-01-01");
    await page.reload({ waitUntil: "networkidle2" });
    await until(page, ready);
    expect(Number(await field("Spread, ticks"))).toBe(3 * spread);

    await fillField(page, "Capital", "300000");
    await until(page, 'location.search.includes("capital=300000")');
    expect(await field("Capital, SKR")).toBe("300000");
    expect(await page.evaluate(() => location.search)).toMatch(/under=\d+\.2/);
    await fillField(page, "Slippage, ticks", "9");
    await until(page, '!location.search.includes("under=")');
    expect([await field("Slippage, ticks"), Number(await field("Spread, ticks")), await field("From")]).toEqual([
      "9",
      3 * spread,
      "2012-01-01",
    ]);
  });

  it("are named by the run that is stored under them, and leave the version's own settings alone", async () => {
    await go(page, at("/strategies/1"));
    await until(page, ready);
    const spread = await field("Spread, ticks");
    await choose(page, "Run settings", "Threefold, version 2");
    await until(page, "/under=\\d+\\.2/.test(location.search)");
    await until(page, ready);
    // the settings are laid over the form before the result is theirs
    while ((await field("Spread, ticks")) === spread) await new Promise((resolve) => setTimeout(resolve, 50));
    await until(page, ready);
    await click(page, "button", "Save run");
    await until(page, "/^\\/runs\\/\\d+$/.test(location.pathname)");
    await byText(page, "dd", "Threefold, version 2");
    await go(page, at("/strategies/1"));
    await until(page, ready);
    expect(await field("Spread, ticks")).toBe(spread);
  });

  it("stand side by side; which ones is chosen and kept in the address", async () => {
    await go(page, at("/strategies/1?beside="));
    const full = `document.querySelector('${TABLE} tbody tr') && ![...document.querySelectorAll('${TABLE} td')].some((cell) => cell.textContent === "…")`;
    await until(page, full);
    const names = () => page.$$eval(`${TABLE} tbody tr`, (rows) => rows.map((row) => row.children[0].textContent));
    expect(await names()).toContain("Threefold, version 2");
    // minutes come from another source, so that the table says which, and what its bars alone change
    const finer = (await names()).filter((name) => name!.includes("1m bars of"));
    expect(finer.map((name) => name!.split("1m")[0])).toEqual(["The finest bars decide: ", "as set, made of the same "]);
    await click(page, "button", "choose…");
    await click(page, "fieldset label", "No costs");
    await until(page, `![...document.querySelectorAll('${TABLE} tbody tr')].some((row) => row.textContent.startsWith("No costs"))`);
    await until(page, full);
    await page.reload({ waitUntil: "networkidle2" });
    await until(page, full);
    expect(await names()).not.toContain("No costs");
    expect(await page.$eval("main", (main) => main.textContent)).toContain("On the same bars, dates and capital the net lies between");
  });

  it("are taken out, with a way back, and an address that names them keeps working; one that names none says so", async () => {
    await go(page, at("/run-settings"));
    await page.click('button[aria-label="Take out Threefold"]');
    await until(page, 'document.body.textContent.includes("Threefold was taken out.")');
    await until(page, '![...document.querySelectorAll("main li a")].some((link) => link.textContent === "Threefold")');
    await click(page, "button", "Undo");
    await until(page, '[...document.querySelectorAll("main li a")].some((link) => link.textContent === "Threefold")');
    await go(page, at("/strategies/1?under=99.1"));
    await until(page, 'document.body.textContent.includes("the run settings that this address names do not exist")');
    expect((await page.goto(at("/run-settings/99")))!.status()).toBe(404);
  });
});
