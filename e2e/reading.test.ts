import type { Browser, Page } from "puppeteer-core";
import { describe, expect, it } from "vitest";
import { byText, choose, click, go, until, withDemo, type Running } from "./harness";

let server: Running;
let browser: Browser;
let page: Page;
withDemo((demo) => ({ server, browser, page } = demo));
const at = (path: string) => `${server.base}${path}`;

const rows = (label: string) =>
  page.$$eval(`[aria-label="${label}"] tbody tr`, (all) => all.map((row) => [...row.children].map((cell) => cell.textContent!)));
const number = (text: string) => Number(text.replace(/[^0-9.−-]/g, "").replace("−", "-"));

describe("a run's parts", () => {
  it("show what is left without the best of it, and put trades together by what one chooses", async () => {
    await go(page, at("/runs/1"));
    await click(page, "nav a", "What made the money");
    await byText(page, "h2", "Without what");
    const left = await rows("The result without parts of it");
    expect(left[0][0]).toBe("nothing: all trades");
    const [all, trade] = [left[0], left.find(([name]) => name.startsWith("the best trade"))!];
    expect(number(trade[1])).toBeLessThan(number(all[1]));
    expect(number(trade[2])).toBe(number(all[2]) - 1);
    const [long, short] = ["the long side", "the short side"].map((name) => left.find(([one]) => one === name)!);
    expect(number(long[2]) + number(short[2])).toBe(number(all[2]));

    await choose(page, "Put together by", "by reason of the exit");
    await until(page, 'location.search.includes("by=reason")');
    await page.waitForSelector('[aria-label="Trades by reason of the exit"] tbody tr');
    const groups = await rows("Trades by reason of the exit");
    expect(groups.length).toBeGreaterThan(1);
    expect(groups.reduce((sum, group) => sum + number(group[2]), 0)).toBe(number(all[2]));
    await page.reload({ waitUntil: "networkidle2" });
    await page.waitForSelector('[aria-label="Trades by reason of the exit"] tbody tr');
    expect((await rows("Trades by reason of the exit")).length).toBe(groups.length);
  });

  it("name the winners that stand apart, and make an exclusion list of their markets", async () => {
    await go(page, at("/strategies/1?others=KELP,PEAT,WOOL,BARLEY"));
    await until(page, 'document.querySelector("[data-took]")');
    await click(page, "button", "Save run");
    await until(page, "/^\\/runs\\/\\d+$/.test(location.pathname)");
    await click(page, "nav a", "What made the money");
    await page.waitForSelector('[aria-label="Winners that stand apart"] tbody tr');
    await click(page, "button", "Their markets as an exclusion list");
    await until(page, 'document.querySelector("main [role=status]")?.textContent.includes("was made")');
    await until(
      page,
      '[...document.querySelectorAll("button")].some((one) => one.textContent.startsWith("Their markets") && !one.disabled)',
    );
    await click(page, "button", "Their markets as an exclusion list");
    await until(page, 'document.querySelector("main [role=alert]")?.textContent.includes("already")');
    await go(page, at("/lists"));
    expect(await page.$eval("main", (main) => main.textContent)).toContain("Outliers of Ferry channel, run");
  });

  it("say what costs took and how much more of them it would bear", async () => {
    await go(page, at("/runs/1/costs"));
    await until(page, '[...document.querySelectorAll("canvas")].every((c) => c.dataset.drawn > 0)');
    expect(await page.$eval("[data-edge]", (element) => element.textContent)).toMatch(/times these costs/);
    expect(await page.$eval("main", (main) => main.textContent)).toContain("costs of a trade");
  });

  it("ask whether it is luck, with the count of what was tried", async () => {
    await go(page, at("/runs/1/luck"));
    const weights = await page.$$eval("[data-weight]", (all) => all.map((one) => one.getAttribute("data-weight")));
    expect(weights.length).toBe(4);
    const text = await page.$eval("main", (main) => main.textContent);
    expect(text).toMatch(/\d+ trials on this line/);
    expect(text).toContain("drawn 2,000 times in blocks of");
  });
});

describe("a run's equity", () => {
  it("is drawn with its closed balance and on a logarithmic scale, and a stretch of it has figures of its own", async () => {
    await go(page, at("/runs/1"));
    await click(page, "button", "closed balance");
    await click(page, "button", "logarithmic");
    await until(page, 'location.search.includes("balance=yes") && location.search.includes("scale=log")');
    await go(page, at("/runs/1?scale=log&balance=yes&from=2012-01-01&to=2015-12-31"));
    await page.waitForSelector('[aria-label="The stretch and the rest"] tbody tr');
    const [inside, outside] = await rows("The stretch and the rest");
    expect(number(inside[4]) + number(outside[4])).toBe(81);
    expect(number(inside[4])).toBeLessThan(30);
    await until(page, 'document.querySelector("canvas")?.dataset.drawn > 0');
    await go(page, at("/runs/1?from=1990-01-01&to=1991-01-01"));
    await until(page, 'document.body.textContent.includes("No bar of the run lies between these dates.")');
  });
});

describe("a run's report", () => {
  it("takes a stretch that is drawn over the curve with the mouse", async () => {
    await go(page, at("/runs/1"));
    await until(page, 'document.querySelector("canvas")?.dataset.drawn > 0');
    const box = (await (await page.$("canvas"))!.boundingBox())!;
    await page.mouse.move(box.x + box.width * 0.4, box.y + 80);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width * 0.6, box.y + 90, { steps: 4 });
    await page.mouse.up();
    await until(page, 'location.search.includes("from=") && location.search.includes("to=")');
    await page.waitForSelector('[aria-label="The stretch and the rest"] tbody tr');
    await click(page, "button", "all of it");
    await until(page, '!location.search.includes("from=")');
  });

  it("counts trades instead of days, and shows the curve without compounding", async () => {
    await go(page, at("/runs/1"));
    await click(page, "button", "uncompounded");
    await until(page, 'location.search.includes("added=yes")');
    await click(page, "button", "by trade number");
    await until(page, "document.querySelector('canvas[aria-label=\"Equity by trade number\"]')?.dataset.drawn > 0");
  });

  it("has a calendar with and without compounding, and of trades", async () => {
    await go(page, at("/runs/1"));
    await page.waitForSelector('[aria-label="Returns by year and month"]');
    await choose(page, "Calendar shows", "trades closed");
    await until(page, 'location.search.includes("calendar=trades")');
    const years = await page.$$eval('[aria-label="Returns by year and month"] tbody tr td:last-child', (cells) =>
      cells.map((cell) => Number(cell.textContent)),
    );
    expect(years.reduce((sum, count) => sum + count, 0)).toBe(81);
  });

  it("explains each figure by those that went into it, and each dash by its reason", async () => {
    await go(page, at("/runs/1"));
    const names = await page.$$("th button");
    for (const name of names)
      if ((await name.evaluate((one) => one.textContent)) === "Profit factor") {
        await name.focus();
        break;
      }
    await until(page, 'document.querySelector(\'[role="tooltip"]\')?.textContent.includes("gross profit")');
    expect(await page.$$eval('button[aria-label^="no value: "]', (all) => all.length)).toBeGreaterThan(3);
  });

  it("shows first what one has chosen to see first", async () => {
    await go(page, at("/runs/1"));
    await click(page, "button", "choose");
    await click(page, '[role="dialog"] label', "Ulcer index, %");
    await click(page, '[role="dialog"] button', "Done");
    await until(page, '[...document.querySelectorAll("th button")].some((name) => name.textContent === "Ulcer index, %")');
    await go(page, at("/runs/2"));
    await until(page, '[...document.querySelectorAll("th button")].some((name) => name.textContent === "Ulcer index, %")');
  });
});

describe("a run along the way", () => {
  it("has charts that one chooses, and any formula on the same time", async () => {
    await go(page, at("/runs/1/along"));
    await until(page, '[...document.querySelectorAll("canvas")].every((c) => c.dataset.drawn > 0)');
    await click(page, "button", "Costs");
    await until(page, 'location.search.includes("costs")');
    await byText(page, "h2", "Costs");
    await page.type("form input", "atr(14) / close");
    await click(page, "form button", "Add");
    await until(page, "document.querySelector('canvas[aria-label=\"atr(14) / close\"]')?.dataset.drawn > 0");
    await page.type("form input", "atr(14");
    await click(page, "form button", "Add");
    await until(page, 'document.querySelector("[role=alert]")?.textContent.includes("This formula can\'t be drawn")');
    expect((await rows("The largest positions"))[0][0]).toBe("FERRY");
  });
});

describe("a run against something else", () => {
  it("is held against its market, a list, cash at any rate, and says what that comes to", async () => {
    await go(page, at("/runs/1/against"));
    await byText(page, "h2", "Figures of both");
    expect(await page.$eval("main", (main) => main.textContent)).toContain("Against holding FERRY this run brought");
    await choose(page, "Held against", "holding Fishing shares in equal parts");
    await until(page, 'location.search.includes("vs=list")');
    await until(page, 'document.body.textContent.includes("Against holding Fishing shares in equal parts this run brought")');
    await click(page, "form button", "Set");
    await until(page, 'document.body.textContent.includes("Against cash at 3 % a year this run brought")');
    const [net] = await rows("Figures of both");
    // each is rounded for itself
    expect(Math.abs(number(net[3]) - (number(net[1]) - number(net[2])))).toBeLessThan(0.11);
    await go(page, at("/runs/1/against?vs=market:NOWHERE"));
    await until(page, 'document.querySelector("[role=alert]")?.textContent.includes("there is no market NOWHERE")');
  });
});

describe("a run's trades", () => {
  it("are chosen by what one asks, and lead to their prices", async () => {
    await go(page, at("/runs/1/trades"));
    const shown = () => page.$eval("[data-shown]", (element) => Number((element as HTMLElement).dataset.shown));
    const all = await shown();
    await choose(page, "Side", "long");
    await until(page, `Number(document.querySelector("[data-shown]").dataset.shown) < ${all}`);
    const long = await shown();
    await choose(page, "Result", "lost");
    await until(page, `Number(document.querySelector("[data-shown]").dataset.shown) < ${long}`);
    expect(await page.evaluate(() => location.search)).toMatch(/side=long.*result=lost/);
    // what is computed of all trades together follows the table
    await until(
      page,
      'document.querySelector(\'[aria-label="Winners against losers"] tbody tr:nth-child(2) td:nth-child(3)\')?.textContent === "0"',
    );
    await page.reload({ waitUntil: "networkidle2" });
    expect(await shown()).toBeLessThan(long);
    await page.waitForSelector("tr[data-trade]");
    await page.click("tr[data-trade]");
    await until(page, 'location.search.includes("trade=") && /^Trade \\d+ on prices/.test(document.querySelector("h2").textContent)');
  });

  it("are walked with the keys, the prices beside them following, in another timeframe", async () => {
    await go(page, at("/runs/1/trades?sort=-net"));
    await page.waitForSelector("tr[data-trade]");
    await page.focus('[aria-label="Trades; arrow keys select"]');
    const heading = () => page.$eval("h2", (head) => head.textContent);
    await page.keyboard.press("ArrowDown");
    await until(page, 'document.querySelector("h2").textContent.startsWith("Trade ")');
    const best = await heading();
    await page.keyboard.press("ArrowDown");
    await until(
      page,
      `document.querySelector("h2").textContent.startsWith("Trade ") && document.querySelector("h2").textContent !== ${JSON.stringify(best)}`,
    );
    await choose(page, "Bars of", "1w");
    await until(page, 'location.search.includes("tf=1w")');
    await until(page, 'document.querySelector("canvas")?.dataset.drawn > 0');
    expect(await page.$$eval('[role="alert"]', (all) => all.length)).toBe(0);
  });

  it("stand in groups with their subtotals, which come to the whole", async () => {
    await go(page, at("/runs/1/trades"));
    await page.waitForSelector("tr[data-trade]");
    await choose(page, "Put together by", "by side");
    const count = async (name: string) => {
      await page.waitForSelector(`tr[data-group="${name}"]`);
      const text = await page.$eval(`tr[data-group="${name}"]`, (row) => row.textContent!);
      return Number(text.match(/([\d,]+) trade/)![1]);
    };
    const long = await count("long");
    // folded in, a group shows its head alone, so that the next one comes into view
    await click(page, 'tr[data-group="long"] button', "long");
    await until(page, "document.querySelector('tr[data-group=\"long\"] button').getAttribute('aria-expanded') === 'false'");
    const short = await count("short");
    await click(page, 'tr[data-group="short"] button', "short");
    expect(long + short + (await count("still open"))).toBe(82);
  });

  it("have the columns that one chooses, on every page", async () => {
    await go(page, at("/runs/1/trades"));
    await page.waitForSelector("tr[data-trade]");
    await click(page, "button", "columns");
    await click(page, '[role="dialog"] label', "furthest against it, in money");
    await click(page, '[role="dialog"] button', "Done");
    await until(page, '[...document.querySelectorAll("th button")].some((head) => head.textContent === "against")');
    await go(page, at("/runs/2"));
    await until(page, '[...document.querySelectorAll("th button")].some((head) => head.textContent === "against")');
    await go(page, at("/runs/1/trades"));
    await click(page, "button", "columns");
    await click(page, '[role="dialog"] button', "As it was at first");
    await until(page, '![...document.querySelectorAll("th button")].some((head) => head.textContent === "against")');
  });

  it("say how they follow each other, and which orders never filled", async () => {
    await go(page, at("/runs/1/trades"));
    await byText(page, "h2", "In a row");
    await until(page, 'document.body.textContent.includes("longest run of losers")');
    await byText(page, "h2", "Orders that never filled");
  });

  it("and all else stand in one file that needs nothing", async () => {
    const text = await (await fetch(at("/runs/1/file/report.html"))).text();
    expect(text).toContain("Ferry channel, run 1");
    expect(text).not.toMatch(/<script|src=|href=/);
    const own = await browser.newPage();
    await own.setContent(text);
    expect(await own.$$eval("h2", (heads) => heads.map((head) => head.textContent))).toContain("Run settings");
    await own.close();
  });
});

describe("runs beside each other", () => {
  it("are marked in a list, one key sets them beside each other", async () => {
    await go(page, at("/strategies/1?under=ready.double-costs"));
    await until(page, 'document.querySelector("[data-took]")');
    await click(page, "button", "Save run");
    await until(page, "/^\\/runs\\/\\d+$/.test(location.pathname)");
    await go(page, at("/strategies/1/runs"));
    // what is written down of a run stays with it, and finds it
    await page.type('input[aria-label="Note of run 1 of Ferry channel"]', "the plain one #quay");
    await page.keyboard.press("Enter");
    await page.click('button[aria-label="Pin run 1 of Ferry channel"]');
    await page.waitForSelector('button[aria-label="Unpin run 1 of Ferry channel"]');
    await page.reload({ waitUntil: "networkidle2" });
    expect(await page.$eval('[aria-label="Runs"] tbody tr input[aria-label^="Note"]', (input) => (input as HTMLInputElement).value)).toBe(
      "the plain one #quay",
    );
    await go(page, at("/runs?find=quay&sort=-sharpe&also=sharpe"));
    expect((await rows("Runs")).map((cells) => cells[1])).toEqual([expect.stringContaining("Ferry channel, run 1")]);
    await go(page, at("/strategies/1/runs"));
    await page.click('input[aria-label="Mark run 1"]');
    await page.click('input[aria-label="Mark run 3"]');
    await byText(page, "button", "Compare 2");
    await page.keyboard.press("c");
    await until(page, 'location.pathname === "/runs/compare"');
    await byText(page, "h2", "Ferry channel, run 3 against Ferry channel, run 1");
    const text = await page.$eval("main", (main) => main.textContent!);
    expect(text).toContain("spread, ticks");
    expect(text).toMatch(/begin on the same bar/);
    const figures = await rows("Figures of the runs");
    expect(figures[0][0]).toContain("Net profit");
    expect(number(figures[0][2])).toBeLessThan(number(figures[0][1]));
    await click(page, "button", "all figures");
    await until(page, "document.querySelectorAll('[aria-label=\"Figures of the runs\"] tbody tr').length > 50");
  });

  it("that are none say so", async () => {
    await go(page, at("/runs/compare?runs=1,999"));
    await until(page, 'document.querySelector("[role=alert]")?.textContent.includes("there is no run 999")');
    await go(page, at("/runs/compare"));
    await byText(page, "h2", "No run chosen yet");
  });
});
