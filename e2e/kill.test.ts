import { spawn, type ChildProcess } from "node:child_process";
import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { Random } from "#core/random";
import { freePort, root, startServer, unseal, type Running } from "./harness";

/** Minutes as CSV text; a changed seed changes every price. */
function minutes(count: number, seed: number): string {
  const random = new Random(seed);
  const lines = ["time,open,high,low,close,volume"];
  let price = 100;
  for (let i = 0; i < count; i++) {
    const open = price;
    price = Number((price + 0.5 * random.normal()).toFixed(2));
    lines.push(
      `${new Date(Date.UTC(2024, 0, 1) + i * 60_000).toISOString()},${open},${Math.max(open, price) + 0.1},${Math.min(open, price) - 0.1},${price},${i % 90}`,
    );
  }
  return lines.join("\n");
}

const FORMAT = {
  delimiter: ",",
  header: true,
  columns: { date: null, time: 0, open: 1, high: 2, low: 3, close: 4, volume: 5 },
  decimal: ".",
  time: "iso",
  zone: "UTC",
  stamp: "start",
  timeframe: "1m",
  newestFirst: false,
};

async function handIn(server: Running, name: string, text: string): Promise<number> {
  const response = await fetch(`${server.base}/uploads?name=${name}`, { method: "POST", body: text, headers: { origin: server.base } });
  return ((await response.json()) as { uploads: { id: number }[] }).uploads[0].id;
}

const post = (server: Running, path: string, body: BodyInit, type: string) =>
  fetch(`${server.base}${path}`, { method: "POST", body, headers: { origin: server.base, "Content-Type": type } });

/** Starts an import and does not wait for it. */
async function startImport(server: Running, upload: number, create: string | null): Promise<void> {
  const target = {
    market: create === null ? "EEL" : null,
    create:
      create === null ? null : { symbol: create, name: create, kind: "future", currency: "SKR", tick: 0.01, pointValue: 1, source: "file" },
    source: "file",
    format: FORMAT,
    leaveOut: false,
    takeChanges: true,
  };
  await post(server, "/markets/import.data", JSON.stringify({ uploads: upload, target }), "application/json");
}

/** The bars that a source holds now, whole: their count and last line. */
async function held(server: Running): Promise<{ count: number; first: string }> {
  const text = await (await fetch(`${server.base}/sources/1/export`)).text();
  const lines = text.trim().split("\n");
  return { count: lines.length - 1, first: lines[1] };
}

const idle = async (server: Running) => {
  // an update asks for every source there is
  for (let k = 0; k < 1000; k++) {
    if (!/import|update/.test(await (await fetch(`${server.base}/api/jobs.data`)).text())) return;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error("the job did not end");
};

describe("kill -9 at any moment", () => {
  let feed: ChildProcess;
  let feedPort: number;
  beforeAll(async () => {
    feedPort = await freePort();
    feed = spawn("node", [join(root, "dist/node/feed.js")], {
      env: { ...process.env, CANYON_FEED_PORT: String(feedPort), CANYON_FEED_SPEED: "0" },
      stdio: "inherit",
    });
  });
  afterAll(() => void feed?.kill());

  it("of an import leaves the old data or the new, whole, and the import ends after a restart", { timeout: 240_000 }, async () => {
    const data = mkdtempSync(join(tmpdir(), "canyon-kill-"));
    const sizes = [20_000, 30_000];
    const texts = [minutes(sizes[0], 1), minutes(sizes[1], 2)];
    let server = await startServer({ data, seed: false });
    await startImport(server, await handIn(server, "eel.csv", texts[0]), "EEL");
    await idle(server);
    let now = await held(server);
    expect(now.count).toBe(sizes[0]);
    const random = new Random(77);
    for (let round = 0; round < 3; round++) {
      const next = minutes(sizes[1], 100 + round);
      const upload = await handIn(server, "eel.csv", next);
      await startImport(server, upload, null);
      await new Promise((resolve) => setTimeout(resolve, random.uniform() * 700));
      await server.stop("SIGKILL");
      server = await startServer({ data, seed: false });
      const after = await held(server);
      const wanted = next.split("\n")[1].replace(/,(-?\d+)\.?0*,/g, ",$1,");
      const taken = Number(after.first.split(",")[4]) === Number(wanted.split(",")[4]) && after.count === sizes[1];
      expect(taken || (after.count === now.count && after.first === now.first), `round ${round}: ${after.count} ${after.first}`).toBe(true);
      await idle(server);
      now = await held(server);
      expect(Number(now.first.split(",")[4]), `round ${round} ends`).toBe(Number(next.split("\n")[1].split(",")[4]));
      expect(now.count).toBe(sizes[1]);
    }
    await server.stop();
  });

  it("of an update leaves each source as it was or up to date", { timeout: 240_000 }, async () => {
    const env = { CANYON_FEED_PORT: String(feedPort) };
    let server = await startServer({ env });
    await unseal(server, "FERRY");
    const { data } = server;
    const random = new Random(99);
    let count = (await held(server)).count;
    for (let round = 0; round < 3; round++) {
      await fetch(`http://127.0.0.1:${feedPort}/control`, {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify({ forwardHours: 96 }),
      });
      await post(server, "/markets.data", new URLSearchParams({ intent: "update" }).toString(), "application/x-www-form-urlencoded");
      await new Promise((resolve) => setTimeout(resolve, random.uniform() * 900));
      await server.stop("SIGKILL");
      server = await startServer({ data, env });
      const after = await held(server);
      expect(after.count).toBeGreaterThanOrEqual(count);
      await idle(server);
      const done = await held(server);
      expect(done.count).toBeGreaterThanOrEqual(after.count);
      count = done.count;
    }
    expect(count).toBeGreaterThan(5648 + 4);
    await server.stop();
  });
});
