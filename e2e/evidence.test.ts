import { spawnSync } from "node:child_process";
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Page } from "puppeteer-core";
import { beforeEach, describe, expect, it } from "vitest";
import { Random } from "#core/random";
import { byText, choose, click, fillField, go, newPage, root, setDate, startServer, until, withDemo, type Demo } from "./harness";

let demo: Demo;
let page: Page;
withDemo((given) => (demo = given));
beforeEach(() => (page = demo.page));

const at = (path: string) => demo.server.base + path;
const text = () => page.$eval("main", (element) => element.textContent!);
/** Presses a button once it can be pressed. */
async function press(name: string) {
  await until(
    page,
    `[...document.querySelectorAll("button")].some((one) => one.textContent.startsWith(${JSON.stringify(name)}) && !one.disabled)`,
  );
  await click(page, "button", name);
}
const settled = () => until(page, 'document.querySelector("[data-verdict=passed], [data-verdict=failed]")', 120);

/** Gives an act that stays on record its reason and its name. */
async function sign(reason: string, act: string) {
  await fillField(page, "Why", reason);
  await fillField(page, "Who", "M.");
  await click(page, '[role="dialog"] button[type="submit"]', act);
}

describe("the evidence of a version", () => {
  it("shows its layers, each with its question, its criteria and what came out", async () => {
    await go(page, at("/strategies/1/evidence?probe=4"));
    await byText(page, "h2", "Parameters shaken passed");
    const layers = await page.$$eval('[aria-label="Layers of evidence"] li', (all) => all.map((li) => li.textContent!));
    expect(layers.length).toBe(8);
    expect(layers[0]).toContain("Out-of-sample passed");
    expect(layers.at(-1)).toContain("Sealed hold-out sealed, untested");
    expect(await text()).toContain("What so many of the 300 runs reach");
    await click(page, '[data-layer="7"]', "Walk-forward map");
    await byText(page, "h2", "Walk-forward map passed");
    expect(await page.$$eval("[data-cell]", (all) => all.length)).toBe(24);
  });

  it("offers what was not asked yet with its cost, and refuses what makes no sense at its place", async () => {
    await go(page, at("/strategies/1/evidence"));
    await click(page, '[aria-label="Not asked yet"] a', "Random entries");
    await fillField(page, "Repetitions", "400");
    await press("What does it cost?");
    await until(page, 'document.querySelector("[data-cost]")?.dataset.cost === "400"');
    await fillField(page, "Better than, of the random ones", "140");
    await press("Write the criteria down");
    await until(page, 'document.querySelector("[role=alert]")?.textContent.includes("criteria.better")');
    await fillField(page, "Better than, of the random ones", "");
    await press("Write the criteria down");
    await until(page, 'document.querySelector("[role=alert]")?.textContent.includes("set at least one criterion")');
    await fillField(page, "Better than, of the random ones", "99,9");
    await press("Write the criteria down");
    await byText(page, "h2", "Random entries untested");
    await press("Run the probe");
    await byText(page, "h2", "Random entries failed");
  });

  it("lets a failure be overruled with a reason that stays wherever it is drawn", async () => {
    await press("Overrule");
    await sign("", "Overrule the failure");
    await until(page, 'document.querySelector("[role=dialog] [role=alert]")?.textContent.includes("say why")');
    await sign("one in a thousand is asked of few", "Overrule the failure");
    await byText(page, "h2", "Random entries failed, overruled");
    expect(await page.$eval("[data-overruled]", (element) => element.textContent)).toContain("“one in a thousand is asked of few”");
    expect(await page.$eval("header svg", (element) => element.getAttribute("aria-label"))).toContain("Random entries failed, overruled");
    await go(page, at("/probes"));
    expect(await text()).toContain("failed, overruled");
    await go(page, at("/strategies/1/evidence/page"));
    const sheet = await text();
    expect(sheet).toContain("Overruled by M.");
    expect(sheet).toContain("It does not say that the timing is all");
  });

  it("moves the status by a deliberate act that names its evidence", async () => {
    await go(page, at("/library"));
    await click(page, 'a[aria-label^="Status of Ferry channel"]', "candidate");
    await until(page, 'location.hash === "#status"');
    await press("Move it");
    await sign("it came through", "Move it");
    await until(page, 'document.querySelector("[role=dialog] [role=alert]")?.textContent.includes("name at least one layer")');
    await click(page, '[role="dialog"] label', "Parameters shaken");
    await sign("it came through", "Move it");
    await until(page, 'document.querySelector("#status")?.textContent === "Status: survivor"');
    expect(await page.$eval('[aria-label="Moves of the status"]', (list) => list.textContent)).toContain(
      "Rests on Parameters shaken (passed)",
    );
  });

  it("opens a map's cell as a walk-forward, whose next values can be taken over", async () => {
    await go(page, at("/strategies/1/evidence?probe=7"));
    await page.click('[data-cell="8 20"]');
    await page.waitForSelector("[data-next]");
    await settled();
    expect(await page.$$eval('[aria-label="Windows"] tbody tr', (rows) => rows.length)).toBe(8);
    const next = JSON.parse((await page.$eval("[data-next]", (element) => (element as HTMLElement).dataset.next))!) as Record<
      string,
      number
    >;
    await click(page, "a", "Take the next fit");
    await until(page, 'location.pathname === "/strategies/1" && location.search.includes("set=")');
    expect(decodeURIComponent(new URL(page.url()).search)).toContain(`entry:${next.entry}`);
  });

  it("counts every trial in its ledger", async () => {
    await go(page, at("/strategies/1/ledger"));
    const rows = await page.$$eval('[aria-label="Trials"] tbody tr', (all) =>
      all.map((row) => [...row.children].map((cell) => cell.textContent!)),
    );
    const total = rows.reduce((sum, row) => sum + Number(row[4].replace(",", "")), 0);
    expect(rows.every((row) => row[2] === "FERRY")).toBe(true);
    expect(rows[0][5]).toBe(total.toLocaleString("en"));
    expect(rows.filter((row) => row[1] === "a probe").length).toBeGreaterThanOrEqual(9);
    expect(await text()).toContain("Looks at FERRY’s years");
  });
});

describe("a cascade", () => {
  it("lets the version on FERRY's trend through, and stops the one on PEAT; what stopped it is said", async () => {
    await go(page, at("/cascades"));
    await click(page, "a", "First sieve");
    await press("Send them through");
    await until(page, 'document.querySelector("[role=alert]")?.textContent.includes("at least one version")');
    await click(page, "label", "Ferry channel");
    await click(page, "label", "Peat dip");
    await press("Send 2 through");
    await until(page, 'location.pathname.startsWith("/cascades/runs/")');
    await until(page, 'document.querySelector("[data-done=true]")', 180);
    const ends = await page.$$eval("tr[data-version]", (rows) => rows.map((row) => [row.children[1].textContent!, row.dataset.end]));
    expect(ends.find(([name]) => name!.startsWith("Ferry channel"))![1]).toBe("through");
    expect(ends.find(([name]) => name!.startsWith("Peat dip"))![1]).toBe("stopped");
    const first = await page.$eval('tr[data-stage="0"]', (row) => [...row.children].map((cell) => cell.textContent!));
    expect([first[1], first[2]]).toEqual(["2", "1"]);
    expect(first[4]).toContain("(1)");
    expect(await page.$eval('tr[data-stage="2"]', (row) => row.children[2].textContent)).toBe("1");
  });

  it("is made by a form, refused with the place of what is wrong, and read back from its file", async () => {
    await go(page, at("/cascades/new"));
    await press("Write it down");
    await until(page, 'document.querySelector("[role=alert]")?.textContent.includes("needs a name")');
    await fillField(page, "Name", "Mine");
    await choose(page, "Another stage", "Trades shuffled");
    await press("Add it");
    await choose(page, "Another stage", "Out-of-sample");
    await press("Add it");
    await page.click('button[aria-label="Out-of-sample: earlier"]');
    await press("Write it down");
    await until(page, "/^\\/cascades\\/\\d+$/.test(location.pathname)");
    const file = await page.evaluate(async () => (await fetch(`${location.pathname}/file.json`)).json());
    expect(file.stages.map((stage: { probe: string }) => stage.probe)).toEqual(["outOfSample", "shuffledTrades"]);
    expect(file.stages[0].input.split).toBe("70%");
    const path = join(mkdtempSync(join(tmpdir(), "canyon-e2e-")), "theirs.json");
    writeFileSync(path, JSON.stringify({ ...file, name: "Theirs" }));
    await go(page, at("/cascades/new"));
    const input = (await page.$('input[type="file"]'))!;
    await (input as unknown as { uploadFile: (path: string) => Promise<void> }).uploadFile(path);
    await byText(page, "h1", "Theirs");
  });
});

describe("the seal", () => {
  /** Dates behind it that are no bars: the seal's own, the session after the last bar, and days of the calendar. */
  const innocent = /2025-01-01|2025-01-02/g;
  const behind = /2025-(0[1-9]|1[0-2])-\d\d/;
  const leaks = (what: string, found: string): string[] => {
    const hit = behind.exec(found.replace(innocent, ""));
    return hit === null ? [] : [`${what}: …${found.replace(innocent, "").slice(Math.max(0, hit.index - 60), hit.index + 20)}…`];
  };
  /** Holidays and early closes are known years ahead; they are no bars. */
  const withoutCalendars = (html: string) =>
    html.replace(/(holidays|earlyCloses)[^\]}]*[\]}]/g, "").replace(/"\d{4}-\d\d-\d\d"(,"\d\d:\d\d")?(?=,"\d{4}-\d\d-\d\d")/g, "");

  it("holds on every page, in every export and on the command line", { timeout: 400_000 }, async () => {
    const found: string[] = [];
    const paths = [
      "/markets",
      "/markets/FERRY",
      "/markets/FERRY?tf=1w",
      "/markets/FERRY/sources",
      "/markets/FERRY/compare",
      "/markets/FERRY/quality",
      "/markets/FERRY/series",
      "/markets/TIDE",
      "/markets/TIDE/quality",
      "/library",
      "/strategies/1",
      "/strategies/1/runs",
      "/strategies/1/evidence?probe=6",
      "/strategies/1/evidence?probe=7",
      "/strategies/1/evidence/page",
      "/strategies/1/ledger",
      "/runs",
      "/runs/1",
      "/runs/1/trades",
      "/runs/1/parts",
      "/runs/1/along",
      "/runs/1/against",
      "/runs/1/costs",
      "/runs/1/luck",
      "/optimizations/new?version=1",
      "/probes",
      "/cascades",
      "/portfolios",
      "/portfolios/1",
    ];
    const look = async (): Promise<void> => {
      const { page: own } = await newPage(demo.browser);
      for (let path = paths.shift(); path !== undefined; path = paths.shift()) {
        await go(own, at(path));
        found.push(...leaks(path, await own.$eval("main", (element) => element.textContent!)));
      }
      await own.close();
    };
    await Promise.all([look(), look(), look()]);
    const get = async (path: string) => (await fetch(at(path))).text();
    for (const id of [1, 2, 3, 4])
      for (const timeframe of ["", "?timeframe=1w", "?timeframe=1h"])
        found.push(...leaks(`source ${id} ${timeframe}`, await get(`/sources/${id}/export${timeframe}`)));
    for (const file of ["result.json", "trades.csv", "equity.csv", "report.html"])
      found.push(...leaks(file, withoutCalendars(await get(`/runs/1/file/${file}`))));
    // the bars themselves, by the hash of what came in: refused
    const sources = await get("/markets/FERRY/sources.data");
    const hashes = [...new Set(sources.match(/[0-9a-f]{64}/g))];
    expect(hashes.length).toBeGreaterThan(4);
    const answers = await Promise.all(hashes.map(async (hash) => (await fetch(at(`/bars/${hash}`))).status));
    expect(answers.filter((status) => status === 403).length).toBeGreaterThanOrEqual(4);
    expect(answers.every((status) => [200, 403, 404].includes(status))).toBe(true);
    const derived = await Promise.all(hashes.map(async (hash) => (await fetch(at(`/bars/${hash}/to/1w?from=1d`))).status));
    expect(derived.filter((status) => status === 403).length).toBeGreaterThanOrEqual(4);
    // the command line works on files, which come from exports; what it makes of them stops there as well
    const folder = mkdtempSync(join(tmpdir(), "canyon-seal-"));
    writeFileSync(join(folder, "ferry.csv"), await get("/sources/1/export"));
    writeFileSync(join(folder, "s.json"), await get("/strategies/1/file.json"));
    writeFileSync(
      join(folder, "t.json"),
      JSON.stringify({ format: "canyon.settings/1", markets: [{ symbol: "FERRY", bars: "ferry.csv", timeframe: "1d" }], capital: 250_000 }),
    );
    const canyon = (...args: string[]) =>
      spawnSync("node", [join(root, "dist/node/canyon.js"), ...args], { cwd: folder, encoding: "utf8" });
    for (const args of [
      ["backtest", "--strategy", "s.json", "--settings", "t.json"],
      ["bars", "--bars", "ferry.csv", "--timeframe", "1d", "--to", "1w"],
      ["rule", "--bars", "ferry.csv", "--timeframe", "1d", "--rule", "close"],
    ]) {
      const { stdout, status } = canyon(...args);
      expect([args[0], status]).toEqual([args[0], 0]);
      expect(stdout).toContain("2024-12");
      found.push(...leaks(args[0], stdout));
    }
    expect(found).toEqual([]);
  });

  it("is opened with a reason and a name, once and for good, on the version and on the data", async () => {
    await go(page, at("/strategies/1/evidence?probe=8"));
    await byText(page, "h2", "Sealed hold-out sealed, untested");
    await click(page, "button", "Open the seal and run");
    await sign("", "Open the seal and run");
    await until(page, 'document.querySelector("[role=dialog] [role=alert]")?.textContent.includes("say why the seal is opened")');
    await sign("everything else held", "Open the seal and run");
    await settled();
    expect(await text()).toContain("behind the seal");
    await go(page, at("/markets/FERRY/sources"));
    const looks = await page.$eval('[aria-label="Looks behind the seal"]', (list) => list.textContent!);
    expect(looks).toContain("Ferry channel v1");
    expect(looks).toContain("“everything else held”");
    await go(page, at("/strategies/1/evidence/page"));
    expect(await text()).toContain("Seals that were opened");
    await go(page, at("/markets/FERRY"));
    expect(await text()).not.toMatch(/2025-1[012]/);
  });

  it("is refused before the data begins, and moves on only with a reason", async () => {
    await go(page, at("/markets/KELP/sources"));
    await click(page, "button", "Move the seal on");
    await setDate(page, "Sealed from", "2024-01-01");
    await sign("to look again", "Move the seal");
    await until(page, 'document.querySelector("[role=dialog] [role=alert]")?.textContent.includes("can\'t be sealed any more")');
    await setDate(page, "Sealed from", "2025-07-01");
    await sign("half a year more to work with", "Move the seal");
    await until(page, 'document.body.textContent.includes("the seal was moved on")');
    expect(await text()).toContain("2025-06-30");
  });
});

describe("kill -9 of the server while a probe runs", () => {
  it("ends with the same result as in one go", { timeout: 300_000 }, async () => {
    const search = {
      vary: [
        { name: "entry", from: 10, to: 80, step: 5 },
        { name: "exit", from: 5, to: 40, step: 5 },
      ],
      objective: [{ metric: "profitToDrawdown" }],
    };
    const input = { search, windows: [6, 8, 10], outShare: [20, 30], criteria: { depth: 1 } };
    let server = await startServer();
    const post = async (body: Record<string, string>) => {
      const response = await fetch(`${server.base}/strategies/2/evidence.data`, {
        method: "POST",
        headers: { Origin: server.base },
        body: new URLSearchParams({ version: "2", ...body }),
      });
      return response.text();
    };
    const vary = {
      ...input,
      search: {
        ...search,
        vary: [
          { name: "fast", from: 5, to: 50, step: 5 },
          { name: "slow", from: 60, to: 200, step: 10 },
        ],
      },
    };
    const start = () => post({ intent: "create", start: "yes", kind: "walkForwardMap", market: "KELP", input: JSON.stringify(vary) });
    /** What the newest probe's page shows of its result; null while there is none. */
    const result = async (): Promise<string | null> => {
      const html = await (await fetch(`${server.base}/strategies/2/evidence`)).text();
      if (!/data-verdict="(passed|failed)"/.test(html)) return null;
      return [...html.matchAll(/aria-label="(\d+ windows, [^"]+)"/g)].map(([, said]) => said).join("\n");
    };
    const ended = async () => {
      for (let k = 0; k < 1200; k++) {
        const said = await result();
        if (said !== null) return said;
        await new Promise((resolve) => setTimeout(resolve, 100));
      }
      throw new Error("the probe did not end");
    };
    await start();
    const wanted = await ended();
    expect(wanted.split("\n").length).toBe(6);
    await start();
    const random = new Random(7);
    for (let kill = 0; kill < 4; kill++) {
      await new Promise((resolve) => setTimeout(resolve, 100 + 500 * random.uniform()));
      await server.stop("SIGKILL");
      server = await startServer({ data: server.data, seed: false });
    }
    expect(await ended()).toBe(wanted);
    await server.stop();
    expect(readFileSync(join(server.data, "canyon.db")).length).toBeGreaterThan(0);
  });
});
