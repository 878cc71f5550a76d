import type { Browser, Page } from "puppeteer-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { Random } from "#core/random";
import { choose, click, fill, fillField, go, newPage, openBrowser, startServer, until, type Running } from "./harness";

/** Times that the server is killed, each at a random moment, for each way to choose trials. */
const KILLS = 6;

describe("kill -9 of the server while it optimizes, twenty times", () => {
  let server: Running;
  let browser: Browser;
  let page: Page;
  beforeAll(async () => {
    server = await startServer();
    browser = await openBrowser();
    ({ page } = await newPage(browser));
  });
  afterAll(async () => {
    await browser?.close();
    await server?.stop();
  });

  const at = (path: string) => server.base + path;
  const csv = async (path: string) => (await fetch(at(`${path}/trials.csv`))).text();

  async function state(path: string): Promise<string> {
    const html = await (await fetch(at(path))).text();
    return /data-state="(\w+)"/.exec(html)![1];
  }

  async function done(path: string): Promise<void> {
    for (let k = 0; k < 1200; k++) {
      if ((await state(path)) === "done") return;
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
    throw new Error(`${path} did not end`);
  }

  async function start(address: string, setUp: () => Promise<void> = async () => {}): Promise<string> {
    await go(page, at(address));
    await setUp();
    await click(page, "button", "Start");
    await until(page, "/^\\/optimizations\\/\\d+$/.test(location.pathname)");
    const path = new URL(page.url()).pathname;
    await page.goto("about:blank");
    return path;
  }

  const range = async (name: string, from: string, to: string, step: string) => {
    await fill(page, `[aria-label="${name}, from"]`, from);
    await fill(page, `[aria-label="${name}, to"]`, to);
    await fill(page, `[aria-label="${name}, step"]`, step);
  };

  it.each(["every combination", "evolution"])(
    "ends with the same trials, to the last bit, as if nothing had happened: %s",
    { timeout: 400_000 },
    async (method) => {
      const random = new Random(method.length);
      const first = await start("/optimizations/new?version=1", async () => {
        await range("entry", "10", "80", "1");
        await range("exit", "5", "40", "1");
        await choose(page, "Combinations that are tried", method);
        if (method === "evolution") {
          await fillField(page, "Population", "150");
          await fillField(page, "Generations", "30");
        }
      });
      await done(first);
      const wanted = await csv(first);
      expect(wanted.trim().split("\n").length).toBeGreaterThan(500);
      let kills = 0;
      for (let run = 1; kills < KILLS; run++) {
        const again = await start(`/optimizations/new?like=${first.split("/").at(-1)}`);
        while (kills < KILLS && (await state(again)) !== "done") {
          await new Promise((resolve) => setTimeout(resolve, random.uniform() * 350));
          await server.stop("SIGKILL");
          kills++;
          server = await startServer({ data: server.data, seed: false, port: server.port });
        }
        await done(again);
        expect((await csv(again)) === wanted, `run ${run} after ${kills} kills`).toBe(true);
      }
      expect(kills).toBe(KILLS);
    },
  );
});
