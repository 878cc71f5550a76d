import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Page } from "puppeteer-core";
import { describe, expect, it } from "vitest";
import { click, go, root, until, withDemo, type Running } from "./harness";

let server: Running;
let page: Page;
withDemo((demo) => ({ server, page } = demo));
const folder = mkdtempSync(join(tmpdir(), "canyon-same-"));
const at = (path: string) => `${server.base}${path}`;

const fetched = async (path: string) => (await fetch(at(path), { headers: { Host: `127.0.0.1:${server.port}` } })).text();

/** The result of the live run, as the button hands it to the browser's downloads. */
async function resultOfPage(): Promise<string> {
  await page.evaluate(() => {
    const make = URL.createObjectURL.bind(URL);
    URL.createObjectURL = (blob) => {
      (window as unknown as { handed: Blob }).handed = blob as Blob;
      return make(blob);
    };
  });
  await click(page, "button", "result file");
  await until(page, "window.handed !== undefined");
  return page.evaluate(() => (window as unknown as { handed: Blob }).handed.text());
}

describe("one fingerprint", () => {
  // with the demo's source of its daily bars, so that the command line can be given the same ones
  it.each([
    ["Adding to a trend", 1],
    ["Channel stop that follows", 5],
  ])("%s gives the same bytes in the browser, on the server and on the command line", async (name, source) => {
    await go(page, at(`/strategies/new?start=${encodeURIComponent(name)}`));
    await until(page, 'document.querySelector("[data-took]")');
    await click(page, "button", "Save");
    await until(page, "/^\\/strategies\\/\\d+$/.test(location.pathname)");
    await until(page, 'document.querySelector("[data-took]")');
    const id = await page.evaluate(() => location.pathname.split("/").pop());
    const inBrowser = await resultOfPage();
    await click(page, "button", "Save run");
    await until(page, "/^\\/runs\\/\\d+$/.test(location.pathname)");
    const run = await page.evaluate(() => location.pathname);
    const onServer = await fetched(`${run}/file/result.json`);
    expect(inBrowser.trimEnd()).toBe(onServer);

    const settings = JSON.parse(await fetched(`${run}/file/settings.json`)) as { markets: { symbol: string; bars: string }[] };
    const [market] = settings.markets;
    writeFileSync(join(folder, "bars.csv"), await fetched(`/sources/${source}/export?timeframe=1d`));
    writeFileSync(join(folder, "strategy.json"), await fetched(`/strategies/${id}/file.json`));
    writeFileSync(join(folder, "settings.json"), JSON.stringify({ ...settings, markets: [{ ...market, bars: "bars.csv" }] }));
    execFileSync(
      "npm",
      [
        "run",
        "-s",
        "canyon",
        "--",
        "backtest",
        "--strategy",
        join(folder, "strategy.json"),
        "--settings",
        join(folder, "settings.json"),
        "--out",
        join(folder, "result.json"),
      ],
      {
        cwd: root,
      },
    );
    expect(readFileSync(join(folder, "result.json"), "utf8").trimEnd()).toBe(onServer);

    await click(page, "button", "Compute again");
    await until(page, 'document.querySelector("[role=status]")?.textContent.includes("the same result to the last bit")');
  });
});

describe("what a sceptic asks", () => {
  it("is answered side by side: other costs, other answers to what happened inside a bar", async () => {
    await go(page, at("/strategies/3"));
    await until(page, 'document.querySelector("[data-took]")');
    await click(page, "button", "Under other run settings");
    const label = "The strategy under other run settings";
    await until(
      page,
      `![...document.querySelectorAll('[aria-label="${label}"] td')].some((cell) => cell.textContent === "…") && document.querySelector('[aria-label="${label}"] tbody tr')`,
    );
    const rows = await page.$$eval(`[aria-label="${label}"] tbody tr`, (all) =>
      all.map((row) => [...row.children].map((cell) => cell.textContent!)),
    );
    const [asSet, house, small, ...ready] = rows.map(([name]) => name);
    expect([asSet, house, small]).toEqual(["as set", "House rules, version 2", "Small account since 2015, version 1"]);
    expect(ready).toEqual(["No costs", "Double costs", "Optimistic", "By the path"]);
    const net = [rows[0], ...rows.slice(3)].map((row) => Number(row[1].replace(/[^0-9.−-]/g, "").replace("−", "-")));
    expect(net[1]).toBeGreaterThan(net[0]);
    expect(net[2]).toBeLessThan(net[0]);
    expect(net[3]).toBeGreaterThanOrEqual(net[0]);
  });
});

describe("events of a run", () => {
  it("are counted by kind, and each leads to its bar on the prices", async () => {
    await go(page, at(`/strategies/new?start=${encodeURIComponent("Breakout with bars and ATR")}`));
    await until(page, 'document.querySelector("[data-took]")');
    await click(page, "button", "Save");
    await until(page, "/^\\/strategies\\/\\d+$/.test(location.pathname)");
    await click(page, "button", "Save run");
    await until(page, "/^\\/runs\\/\\d+$/.test(location.pathname)");
    await click(page, "button", "Expired");
    await until(page, 'new URLSearchParams(location.search).get("kind") === "expired"');
    await until(
      page,
      '[...document.querySelectorAll(\'ul[aria-label="Events"] button\')].every((one) => one.textContent.includes("Expired"))',
    );
    await click(page, 'ul[aria-label="Events"] button', "20");
    await until(page, '[...document.querySelectorAll("h2")].some((head) => head.textContent.startsWith("Expired on WOOL"))');
    await page.reload({ waitUntil: "networkidle2" });
    await until(page, '[...document.querySelectorAll("h2")].some((head) => head.textContent.startsWith("Expired on WOOL"))');
  });
});
