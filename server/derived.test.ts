import { describe, expect, it } from "vitest";
import { hashBars, MarketCalendar, parseTimeframe, readBarsCsv, resample, withoutTimes } from "#core/bars";
import { derivedBars } from "./db/schema";
import type { Refused } from "./problem";
import { settingsMarket, sourceFor } from "./market-source";
import { emptyFolder, newMarket, openTest } from "./testing/services";

const session = { zone: "Europe/Copenhagen", open: "09:00", close: "11:00", days: [1, 2, 3, 4, 5] };

/** Minutes of some days, the last half hour of each outside the session. */
function minutes(days: number): string {
  const lines = ["time,open,high,low,close,volume"];
  for (let d = 0; d < days; d++)
    for (let m = 0; m < 150; m++) {
      const time = new Date(Date.UTC(2024, 0, 8 + d, 8) + m * 60_000);
      lines.push(`${time.toISOString()},${100 + m},${101 + m},${99 + m},${100.5 + m},${m}`);
    }
  return lines.join("\n");
}

describe("other timeframes", () => {
  it("are made once by the rules, and anew when the bars or the session change", async () => {
    const services = await openTest(emptyFolder());
    const { bars } = readBarsCsv(minutes(3));
    const market = await services.markets.add({ ...newMarket("EEL"), session }, bars, "1m");
    const wanted = resample(bars, parseTimeframe("1m")!, parseTimeframe("20m")!, new MarketCalendar(session));
    const first = await services.derived.get(market.barsHash, "1m", "20m", session);
    expect(first).toEqual({ hash: hashBars(wanted.bars), outside: 90 });
    const both = await Promise.all([1, 2].map(() => services.derived.get(market.barsHash, "1m", "90m", session)));
    expect(both[0]).toEqual(both[1]);
    const kept = async () => (await services.db.select().from(derivedBars)).length;
    const before = await kept();
    await services.derived.get(market.barsHash, "1m", "20m", session);
    expect(await kept()).toBe(before);
    const longer = await services.derived.get(market.barsHash, "1m", "20m", { ...session, close: "11:30" });
    expect(longer.hash).not.toBe(first.hash);
    expect(longer.outside).toBe(0);
    await services.sources.decide(market.sources[0].id, { key: "k", text: "t", times: [bars.time[0]] }, "leaveOut", "");
    const now = await services.markets.need("EEL");
    const after = await services.derived.get(now.barsHash, "1m", "20m", session);
    expect(after.hash).toBe(
      hashBars(
        resample(withoutTimes(bars, new Set([bars.time[0]])), parseTimeframe("1m")!, parseTimeframe("20m")!, new MarketCalendar(session))
          .bars,
      ),
    );
    await services.close();
  });

  it("are refused with the reason where they can't be", async () => {
    const services = await openTest(emptyFolder());
    const market = await services.markets.add({ ...newMarket("EEL"), session }, readBarsCsv(minutes(2)).bars, "1m");
    const refusal = (to: string, from = "1m", own: typeof session = session) =>
      services.derived.get(market.barsHash, from, to, own).then(
        () => "it was not refused",
        (error: Refused) => error.message,
      );
    expect(await refusal("7x")).toContain("not a timeframe");
    expect(await refusal("1m", "20m")).toContain("same or a coarser timeframe");
    expect(await refusal("7m", "2m")).toContain("not a multiple");
    expect(await refusal("20m", "1m", { ...session, open: "20:00", close: "21:00" })).toContain("no bar lies inside");
    await services.close();
  });

  it("choose the source that serves them: the default, its namesake, any", async () => {
    const services = await openTest(emptyFolder());
    const fine = readBarsCsv(minutes(4)).bars;
    const days = resample(fine, parseTimeframe("1m")!, parseTimeframe("1d")!, new MarketCalendar(session)).bars;
    const { id } = await services.markets.add({ ...newMarket("EEL"), session, source: "North" }, days, "1d");
    await services.sources.add(id, "South", "1m", fine);
    await services.sources.add(
      id,
      "North",
      "5m",
      resample(fine, parseTimeframe("1m")!, parseTimeframe("5m")!, new MarketCalendar(session)).bars,
    );
    const market = await services.markets.need("EEL");
    const serving = (timeframe: string) => {
      const source = sourceFor(market, parseTimeframe(timeframe)!);
      return source && `${source.name} ${source.timeframe}`;
    };
    expect(["1w", "1d", "20m", "5m", "1m"].map(serving)).toEqual(["North 1d", "North 1d", "North 5m", "North 5m", "South 1m"]);
    expect(settingsMarket(market, "2m").timeframe).toBe("1m");
    await services.sources.makeDefault(market.sources.find((source) => source.name === "South")!.id);
    const changed = await services.markets.need("EEL");
    expect([changed.source, changed.timeframe]).toEqual(["South", "1m"]);
    await services.close();
  });
});
