import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { afterAll, beforeAll, describe, expect, it, vi } from "vitest";
import { hashBars, sliceBars } from "#core/bars";
import { emptyFolder, ended, newMarket, openTest } from "#server/testing/services";
import { DEMO_MARKETS, demoBars } from "../markets";
import { createFeed, GOOD_MANNERS } from "./app";
import { FEED_START } from "./book";
import { FeedClock } from "./clock";

const clock = new FeedClock(FEED_START, 0, () => 0);
const feed = createFeed(clock, 5);
let server: Server;
let url = "";
const peat = DEMO_MARKETS.find((market) => market.spec.symbol === "PEAT")!;

beforeAll(async () => {
  process.env.CANYON_RETRY_MS = "5";
  server = createServer(feed.app);
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => {
  delete process.env.CANYON_RETRY_MS;
  server.closeAllConnections();
  server.close();
});

/** PEAT without its last hundred days, served by the feed. */
async function behind() {
  const services = await openTest(emptyFolder());
  await services.jobs.start();
  const bars = demoBars(peat);
  await services.markets.add({ ...newMarket("PEAT"), ...peat.spec, source: "Lighthouse" }, sliceBars(bars, 0, bars.length - 100), "1d", {
    served: true,
  });
  await services.updates.choose({ url, every: null });
  const update = async () => ended(services, (await services.updates.start())!);
  const source = async () => (await services.markets.need("PEAT")).sources[0];
  return { services, update, source, bars };
}

describe("updates from the data service", () => {
  it("pick up where the bars stop, and go on as the service's clock does", async () => {
    const { services, update, source, bars } = await behind();
    expect(await update()).toBe("done");
    const first = await source();
    expect(first.barsHash).toBe(hashBars(bars));
    expect(first.checkedAt).not.toBe(null);
    expect((await services.sources.changes(first.id))[0]).toMatchObject({ what: "update", added: 100 });
    await update();
    expect((await source()).count).toBe(bars.length);
    clock.forward(10 * 86_400_000);
    await update();
    const later = await source();
    expect(later.count - bars.length).toBeGreaterThanOrEqual(5);
    expect(later.lastTime).toBeLessThan(clock.now());
    await services.close();
  });

  it("come to the same bars however the service misbehaves, as long as it answers at last", async () => {
    const { services, update, source } = await behind();
    Object.assign(feed.manners, { ...GOOD_MANNERS, error: 0.4, drop: 0.3, duplicate: 0.2, late: 0.5, slow: 2 });
    for (let k = 0; k < 12; k++) await update();
    Object.assign(feed.manners, GOOD_MANNERS);
    await update();
    const clean = await behind();
    await clean.update();
    expect((await source()).barsHash).toBe((await clean.source()).barsHash);
    await clean.services.close();
    await services.close();
  });

  it("say why a source could not be asked, keep its bars, and mend it with the next answer", async () => {
    const { services, update, source } = await behind();
    const before = await source();
    Object.assign(feed.manners, { ...GOOD_MANNERS, error: 1 });
    expect(await update()).toBe("done");
    const failed = await source();
    expect(failed.checkProblem).toContain("answered 503");
    expect(failed.barsHash).toBe(before.barsHash);
    Object.assign(feed.manners, GOOD_MANNERS);
    await update();
    expect((await source()).checkProblem).toBe(null);
    await services.close();
  });

  it("show revised bars and take them only on confirmation", async () => {
    const { services, update, source } = await behind();
    await update();
    const held = await source();
    Object.assign(feed.manners, { ...GOOD_MANNERS, revised: 1 });
    await update();
    Object.assign(feed.manners, GOOD_MANNERS);
    expect((await source()).barsHash).toBe(held.barsHash);
    Object.assign(feed.manners, { ...GOOD_MANNERS, revised: 1 });
    await update();
    Object.assign(feed.manners, GOOD_MANNERS);
    const [waiting, ...others] = await services.imports.recent();
    expect(others).toEqual([]);
    expect(waiting).toMatchObject({ state: "ready", target: { market: "PEAT" } });
    expect(waiting.report!.changed).toBeGreaterThan(0);
    await services.imports.take(waiting.id, "all");
    expect((await source()).barsHash).not.toBe(held.barsHash);
    expect((await source()).count).toBe(held.count);
    await services.close();
  });

  it("start by themselves on a schedule, and stop when it is taken away", async () => {
    vi.useFakeTimers({ toFake: ["setInterval", "clearInterval"] });
    try {
      const { services, source, bars } = await behind();
      const started = vi.spyOn(services.updates, "start");
      await services.updates.choose({ url, every: 5 });
      vi.advanceTimersByTime(4 * 60_000);
      expect(started).not.toHaveBeenCalled();
      vi.advanceTimersByTime(60_000);
      expect(started).toHaveBeenCalledTimes(1);
      await ended(services, (await (started.mock.results[0].value as Promise<number>))!);
      expect((await source()).count).toBeGreaterThanOrEqual(bars.length);
      await services.updates.choose({ url, every: null });
      vi.advanceTimersByTime(60 * 60_000);
      expect(started).toHaveBeenCalledTimes(1);
      await services.close();
    } finally {
      vi.useRealTimers();
    }
  });

  it("serve only complete bars, refuse what is no way to misbehave, and name unknown series", async () => {
    const ask = async (path: string, init?: RequestInit) => {
      const response = await fetch(`${url}${path}`, init);
      return { status: response.status, body: (await response.json()) as Record<string, unknown> };
    };
    expect((await ask("/bars?symbol=NONE&source=Lighthouse&timeframe=1d")).status).toBe(404);
    const post = (body: object) =>
      ask("/control", { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) });
    expect((await post({ manners: { rude: 1 } })).status).toBe(400);
    expect((await post({ speed: -1 })).status).toBe(400);
    expect((await post({ speed: 5, manners: { late: 0.5 } })).body).toMatchObject({ speed: 5, manners: { late: 0.5 } });
    expect((await post({ speed: 0, manners: GOOD_MANNERS })).status).toBe(200);
    const { series } = (await ask("/series")).body as { series: unknown[] };
    expect(series.length).toBe(103);
  });
});
