import type { Page } from "puppeteer-core";
import { describe, expect, it } from "vitest";
import { byText, choose, click, fillField, go, setDate, until, withDemo, type Demo } from "./harness";

let demo: Demo;
let page: Page;
withDemo((given) => {
  demo = given;
  page = given.page;
});
const at = (path: string) => `${demo.server.base}${path}`;
const main = () => page.$eval("main", (element) => element.textContent ?? "");
const current = () => until(page, 'document.querySelector("[data-live=current]") !== null');
const weights = () => page.$$eval("[data-weight]", (all) => all.map((element) => element.textContent));

/** The rows of a table by its label, cell by cell. */
const rowsOf = (label: string) =>
  page.$$eval(`[role="region"][aria-label="${label}"] tbody tr`, (rows) =>
    rows.map((row) => [...row.children].map((cell) => cell.textContent?.trim() ?? "")),
  );

describe("building a portfolio", () => {
  it("takes versions in by button and by dragging, and follows every weight at once", async () => {
    await go(page, at("/portfolios/new"));
    await fillField(page, "Name", "By hand");
    await page.click('button[aria-label="Take in Ferry channel"]');
    const handle = (await page.waitForSelector('button[aria-label="Drag Bands with the trend"]'))!;
    const from = (await handle.boundingBox())!;
    // up to the members, wherever the page has been scrolled to
    const target = (await (await byText(page, "h2", "Members")).boundingBox())!;
    await page.mouse.move(from.x + 5, from.y + 5);
    await page.mouse.down();
    await page.mouse.move(from.x - 40, from.y - 20, { steps: 4 });
    await page.mouse.move(target.x + 30, Math.max(8, target.y + 12), { steps: 12 });
    await page.mouse.up();
    await until(page, 'document.querySelectorAll("[data-weight]").length === 2');
    expect(await weights()).toEqual(["50.0 %", "50.0 %"]);
    await byText(page, "p", "Ferry channel is no survivor");
    await current();
    const net = () => page.$eval('[data-live-figure="whole netPercent"]', (element) => element.textContent);
    const before = await net();
    await page.focus('[role="slider"][aria-label="Weight of Ferry channel"]');
    for (let i = 0; i < 20; i++) await page.keyboard.press("ArrowRight");
    await until(page, `document.querySelector('[data-live-figure="whole netPercent"]').textContent !== ${JSON.stringify(before)}`);
    expect(await weights()).toEqual(["70.0 %", "30.0 %"]);
    await click(page, "button", "undo");
    expect(await weights()).toEqual(["50.0 %", "50.0 %"]);
  });

  it("estimates weights on one stretch, judges on the next, and says what can't be at its place", async () => {
    await choose(page, "How", "minimum variance");
    await byText(page, "span", "estimated weights need a first date");
    await setDate(page, "Estimated from", "2004-01-01");
    await setDate(page, "to", "2013-12-31");
    await fillField(page, "At most, %", "40");
    await byText(page, "span", "2 members of at most 40 % come to less than 100 %");
    await fillField(page, "At most, %", "70");
    await current();
    await until(page, "document.querySelector('[data-live-figure=\"judged sharpe\"]') !== null");
    const shown = (await weights()).map((text) => Number.parseFloat(text!));
    expect(shown[0] + shown[1]).toBeCloseTo(100, 0);
    expect(Math.max(...shown)).toBeLessThanOrEqual(70);
    await fillField(page, "Why", "a first try");
    await click(page, "button", "Save");
    await until(page, "/^\\/portfolios\\/\\d+$/.test(location.pathname)");
    await byText(page, "h1", "By hand");
    expect(await main()).toContain("Sharpe, judged stretch");
  });

  it("keeps every state with what changed in words; a second window's change is not lost", async () => {
    const id = new URL(page.url()).pathname.split("/")[2];
    await go(page, at(`/portfolios/${id}/edit`));
    const second = await demo.browser.newPage();
    await go(second, at(`/portfolios/${id}/edit`));
    await page.bringToFront();
    await choose(page, "How", "equal");
    await current();
    await click(page, "button", "Save as the next state");
    await until(page, `location.pathname === "/portfolios/${id}"`);
    await go(page, at(`/portfolios/${id}/states`));
    expect(await main()).toMatch(
      /State 2.*Instead of weights by minimum variance, estimated 2004-01-01 to 2013-12-31, at most 70 %: weights equal\./,
    );
    expect(await main()).toContain("a first try");
    await second.bringToFront();
    await fillField(second, "Name", "Too late");
    await click(second, "button", "Save as the next state");
    await byText(second, "li", "this portfolio was changed meanwhile");
    await second.close();
    await page.bringToFront();
  });
});

describe("what a portfolio is asked", () => {
  it("contributions add up to the whole, and leaving a member out leads to the change", async () => {
    await go(page, at("/portfolios/2"));
    const number = (text: string) => Number(text.replace(/[,+]/g, "").replace("−", "-"));
    const rows = await rowsOf("Members");
    expect(rows).toHaveLength(4);
    const strip = await page.$eval("dl dd", (element) => element.textContent ?? "");
    const profit = rows.reduce((sum, row) => sum + number(row[6]), 0);
    expect((profit / 100) * 3_000_000).toBeCloseTo(number(strip), -4);
    await go(page, at("/portfolios/2/together?by=day"));
    expect(await main()).toContain("Correlation of daily results");
    expect(await main()).toContain("In the worst tenth of days");
    await go(page, at("/portfolios/2/members"));
    const changed = (await rowsOf("With and without")).map(([name]) => name);
    expect(changed[0]).toBe("as it is");
    expect(changed).toContain("with Bands with the trend");
    expect((await rowsOf("Reserve"))[0].slice(0, 2)).toEqual(["Ferry channel", "Bands with the trend v1, FERRY"]);
    await click(page, "a", "put it in Ferry channel's place");
    await until(page, 'location.pathname === "/portfolios/2/edit"');
    await byText(page, "h2", "Members");
    const names = await page.$$eval("[data-weight]", (all) => all.map((element) => element.getAttribute("data-weight")));
    expect(names).toContain("Bands with the trend");
    expect(names).not.toContain("Ferry channel");
  });

  it("the largest positions lead to their trades", async () => {
    await go(page, at("/portfolios/2/along"));
    await click(page, '[aria-label="The largest positions"] a', "trade");
    await until(page, 'document.querySelector("[data-trade]") !== null && location.pathname.endsWith("/trades")');
    expect(await main()).toMatch(/Trade \d+: /);
  });

  it("what if: other costs, a drawdown that must not be passed, numbers that are none", async () => {
    await go(page, at("/portfolios/2/what-if"));
    await fillField(page, "All costs, times", "3");
    await fillField(page, "Drawdown not to pass, %", "10");
    await click(page, "button", "Compute");
    await until(page, 'location.search.includes("costs=3")');
    await byText(page, "h2", "As it is, and as it would have been");
    const [now, then] = (await rowsOf("As it is, and as it would have been")).map((row) => Number(row[1]));
    expect(then).toBeLessThan(now);
    expect(Number(await page.$eval("[data-size]", (element) => element.getAttribute("data-size")))).toBeGreaterThan(1);
    expect((await rowsOf("A member fails at its worst point")).length).toBe(4);
    await go(page, at("/portfolios/2/what-if?capital=much"));
    await byText(page, "span", "capital must be a number above 0");
  });
});

describe("choosing, regimes, orders", () => {
  it("chooses within limits, counts the looks, and makes the chosen a portfolio", async () => {
    await go(page, at("/portfolios/choose"));
    await fillField(page, "How many", "2");
    await fillField(page, "At most of one market", "1");
    await choose(page, "How", "by evolution");
    await click(page, "button", "Choose");
    await byText(page, "h2", "2 chosen");
    const looks = (await main()).match(/(\d+) selections were looked at so far, by 1 question/);
    expect(Number(looks![1])).toBeGreaterThan(1);
    expect(await main()).toContain("the chosen, judged on later dates");
    await click(page, "a", "Make them a portfolio");
    await until(page, 'document.querySelectorAll("[data-weight]").length === 2');
  });

  it("calm and storm: the condition tells them apart, switching becomes a portfolio and switches", async () => {
    await go(page, at("/regimes"));
    await choose(page, "or one of the library", "Calm by bond against index");
    await choose(page, "while no, hold", "SHORE10");
    await click(page, "button", "Divide");
    await byText(page, "h2", "Within and without");
    const rows = await rowsOf("Within and without");
    const holding = rows.find(([name]) => name === "holding SALT40")!;
    // volatility of the index: calm against storm
    expect(Number(holding[3])).toBeLessThan(Number(holding[8]) * 0.85);
    await fillField(page, "Name", "Calm and storm");
    await click(page, "button", "Make a portfolio");
    await until(page, "/^\\/portfolios\\/\\d+$/.test(location.pathname)");
    await byText(page, "h1", "Calm and storm");
    const members = (await rowsOf("Members")).map((row) => row[1]);
    expect(members[0]).toContain("SALT40 while yes");
    expect(members[1]).toContain("SHORE10 while no");
    await go(page, at(`${new URL(page.url()).pathname}/together`));
    // never both at the same time
    const overlap = await rowsOf("In the market at the same time, %");
    expect(Number(overlap[0][2])).toBeLessThanOrEqual(1);
    await go(page, at("/regimes?rule=close+%3E&market=SALT40&yes=SALT40&no=cash"));
    await byText(page, "span", "line 1");
  });

  it("the order sheet of one day is what the next one tells as done; it says what is sealed, and leaves as a file", async () => {
    const days = ["2024-10-01", "2024-10-02", "2024-10-03", "2024-10-04", "2024-10-07", "2024-10-08", "2024-10-09", "2024-10-10"];
    type Sheet = {
      name: string;
      date: string;
      orders: { purpose: string; type: string; symbol: string; units: number }[];
      changes: { opened: { symbol: string; units: number }[] };
    };
    const sheets = await Promise.all(
      days.map(async (day) => ((await (await fetch(at(`/orders/file/orders.json?on=${day}`))).json()) as { sheets: Sheet[] }).sheets),
    );
    let asked = 0;
    sheets.slice(0, -1).forEach((today, k) => {
      for (const sheet of today) {
        if (sheet.date !== days[k]) continue;
        const next = sheets[k + 1].find(({ name }) => name === sheet.name)!;
        for (const order of sheet.orders.filter(({ purpose, type }) => purpose === "enter" && type === "market")) {
          asked++;
          expect(next.changes.opened.map(({ symbol, units }) => `${symbol} ${units}`)).toContain(`${order.symbol} ${order.units}`);
        }
      }
    });
    expect(asked).toBeGreaterThan(0);
    await go(page, at("/orders"));
    expect(await main()).toMatch(/What lies behind a seal is not looked at.*from 2025-01-01 on/);
    expect(await main()).toContain("exclusion lists do not apply here");
    await setDate(page, "As it was after", days[0]);
    await until(page, `location.search === "?on=${days[0]}"`);
    await until(page, `document.body.textContent.includes("after ${days[0]}")`);
    const csv = await (await fetch(at(`/orders/file/orders.csv?on=${days[0]}`))).text();
    expect(csv.split("\n")[0]).toBe(
      "for,member,market,session,purpose,side,order,price,units,closes,stop,target,levels,formed,works,rule,values",
    );
    await go(page, at("/orders?on=soon"));
    await byText(page, "li", "“soon” is no date");
  });
});
