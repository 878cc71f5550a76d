import { spawn, type ChildProcess } from "node:child_process";
import { cpSync, mkdtempSync } from "node:fs";
import { createServer, type AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { afterAll, beforeAll, expect } from "vitest";
import puppeteer, { type Browser, type ElementHandle, type Page } from "puppeteer-core";

export const root = fileURLToPath(new URL("..", import.meta.url));

export async function freePort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const { port } = server.address() as AddressInfo;
  await new Promise((resolve) => server.close(resolve));
  return port;
}

export interface Running {
  process: ChildProcess;
  base: string;
  port: number;
  data: string;
  output: () => string;
  stop: (signal?: NodeJS.Signals) => Promise<number | null>;
}

/** Fills a folder with the demo's data: made once for a build, before the first test (seed.setup.ts), then copied. */
function seeded(folder: string): void {
  cpSync(process.env.CANYON_E2E_SEED!, folder, { recursive: true });
}

/** Starts the built server on a data folder of its own (or a given one) and waits for its address. */
export async function startServer(
  options: { data?: string; seed?: boolean; port?: number; env?: Record<string, string> } = {},
): Promise<Running> {
  const data = options.data ?? mkdtempSync(join(tmpdir(), "canyon-e2e-"));
  if (options.seed ?? options.data === undefined) seeded(data);
  const port = options.port ?? (await freePort());
  const env = { ...process.env, PORT: String(port), CANYON_DATA: data, NODE_ENV: "production", ...options.env };
  const child = spawn("node", [join(root, "dist/node/server.js")], { env, stdio: ["ignore", "pipe", "pipe"] });
  let output = "";
  const running: Running = {
    process: child,
    base: `http://127.0.0.1:${port}`,
    port,
    data,
    output: () => output,
    stop: (signal = "SIGINT") =>
      new Promise((resolve) => {
        if (child.exitCode !== null || child.signalCode !== null) return resolve(child.exitCode);
        child.once("exit", (code) => resolve(code));
        child.kill(signal);
      }),
  };
  await new Promise<void>((resolve, reject) => {
    const read = (part: Buffer) => {
      output += part.toString();
      if (output.includes("Canyon is at")) resolve();
    };
    child.stdout.on("data", read);
    child.stderr.on("data", read);
    child.once("exit", (code) => reject(new Error(`the server ended with ${code}: ${output}`)));
  });
  return running;
}

/** Debian's Chromium, headless, with a profile of its own. */
export function openBrowser(): Promise<Browser> {
  return puppeteer.launch({
    executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
    userDataDir: mkdtempSync(join(tmpdir(), "canyon-profile-")),
    args: [
      "--no-sandbox",
      "--disable-gpu",
      "--disable-quic",
      "--no-first-run",
      "--disable-background-networking",
      "--disable-component-update",
      "--disable-sync",
      "--lang=en-GB",
    ],
    defaultViewport: { width: 1280, height: 800 },
  });
}

/** A page that notes every error its console or code meets. */
export async function newPage(browser: Browser): Promise<{ page: Page; errors: string[] }> {
  const page = await browser.newPage();
  const errors: string[] = [];
  page.on("pageerror", (error) => errors.push(String(error)));
  page.on("console", (message) => {
    if (message.type() === "error" && !/status of (400|404|409)/.test(message.text())) errors.push(message.text());
  });
  page.setDefaultTimeout(60_000);
  return { page, errors };
}

/** Moves markets' seals on beyond all data, for tests of bars that come after the demo's. */
export async function unseal(server: Running, ...symbols: string[]): Promise<void> {
  for (const symbol of symbols) {
    const body = new URLSearchParams({ intent: "seal", symbol, from: "2040-01-01", reason: "a test of what comes later", name: "a test" });
    const answer = await fetch(`${server.base}/markets/${symbol}/sources.data`, { method: "POST", headers: { Origin: server.base }, body });
    const text = await answer.text();
    if (answer.status !== 200 || text.includes('"message"')) throw new Error(`${symbol} could not be unsealed: ${text}`);
  }
}

export interface Demo {
  server: Running;
  browser: Browser;
  page: Page;
  errors: string[];
}

/** The demo's data on a server of its own, and a page, for all tests of a file. An error that the page met fails the file. */
export function withDemo(take: (demo: Demo) => void): void {
  let demo: Demo | null = null;
  beforeAll(async () => {
    const server = await startServer();
    const browser = await openBrowser();
    demo = { server, browser, ...(await newPage(browser)) };
    take(demo);
  });
  afterAll(async () => {
    await demo?.browser.close();
    await demo?.server.stop();
    expect(demo?.errors).toEqual([]);
  });
}

/** Goes to an address and waits until the page answers to input. */
export async function go(page: Page, url: string): Promise<void> {
  await page.goto(url, { waitUntil: "networkidle2" });
  // React leaves its marks on what it has taken over; pages without it have no module to run
  await page.waitForFunction(
    () => {
      const main = document.querySelector("main");
      const taken = main !== null && Object.keys(main).some((key) => key.startsWith("__react"));
      return taken || document.querySelector('script[type="module"]') === null;
    },
    // a page that lies behind others is drawn seldom
    { polling: 60 },
  );
}

/** The first element of a kind whose text is (or begins with) the one given. */
export async function byText(page: Page, selector: string, text: string): Promise<ElementHandle<HTMLElement>> {
  const handle = await page.waitForFunction(
    (s, t) => {
      const all = [...document.querySelectorAll<HTMLElement>(s)].filter(
        (element) => element.offsetParent !== null || element.getClientRects().length > 0,
      );
      return (
        all.find((element) => element.textContent?.trim() === t) ?? all.find((element) => element.textContent?.trim().startsWith(t)) ?? null
      );
    },
    { polling: 60 },
    selector,
    text,
  );
  return handle.asElement() as ElementHandle<HTMLElement>;
}

/** Clicks what shows the text; looks again where the page drew itself anew between looking and clicking. */
export async function click(page: Page, selector: string, text: string): Promise<void> {
  for (let looks = 1; ; looks++) {
    const element = await byText(page, selector, text);
    try {
      await element.evaluate((e) => e.scrollIntoView({ block: "center" }));
      return await element.click();
    } catch (error) {
      if (looks === 5 || !/detached|not clickable|context was destroyed/.test(String(error))) throw error;
    }
  }
}

/** Replaces what stands in an input. */
export async function fill(page: Page, selector: string, text: string): Promise<void> {
  const element = (await page.waitForSelector(selector))!;
  await element.evaluate((e) => e.scrollIntoView({ block: "center" }));
  await element.focus();
  await page.keyboard.down("Control");
  await page.keyboard.press("a");
  await page.keyboard.up("Control");
  await page.keyboard.press("Backspace");
  if (text !== "") await page.keyboard.type(text);
}

/** An input by its label. */
export async function fillField(page: Page, label: string, text: string): Promise<void> {
  const id = await page.waitForFunction(
    (l) => [...document.querySelectorAll("label")].find((element) => element.textContent?.trim().startsWith(l))?.htmlFor ?? null,
    { polling: 60 },
    label,
  );
  await fill(page, `[id="${(await id.jsonValue()) as string}"]`, text);
}

/** Sets a date input, whatever the browser's own way of typing dates. */
export async function setDate(page: Page, label: string, value: string): Promise<void> {
  await page.evaluate(
    (l, v) => {
      const id = [...document.querySelectorAll("label")].find((element) => element.textContent?.trim() === l)!.htmlFor;
      const input = document.getElementById(id) as HTMLInputElement;
      Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")!.set!.call(input, v);
      input.dispatchEvent(new Event("input", { bubbles: true }));
    },
    label,
    value,
  );
}

/** Chooses from a pick-list by its label. */
export async function choose(page: Page, label: string, option: string): Promise<void> {
  const trigger = (await page.waitForSelector(`button[role="combobox"][aria-label="${label}"]`))!;
  await trigger.evaluate((e) => e.scrollIntoView({ block: "center" }));
  await trigger.focus();
  await page.keyboard.press("Enter");
  await page.waitForSelector('[role="option"]');
  const item = await byText(page, '[role="option"]', option);
  await item.click();
}

/** Waits until a condition on the page holds; long work may take its `seconds`. Two files share the machine, so patience is long. */
export const until = (page: Page, check: string, seconds = 60): Promise<unknown> =>
  page.waitForFunction(check, { timeout: seconds * 1000, polling: 60 });

/** The figure that the live result shows for a metric. */
export const liveMetric = (page: Page, metric: string): Promise<string> =>
  page.$eval(`[data-metric="${metric}"]`, (element) => element.textContent ?? "");
