import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  DAY,
  emptyBars,
  marketSpec,
  mergeBars,
  MINUTE,
  parseTimeframe,
  sliceBars,
  withoutTimes,
  type Bars,
  type MarketSpec,
} from "#core/bars";
import { Random } from "#core/random";
import { compareSources, qualityReport, robustScores, QUALITY_CHECKS, type FindingKind } from ".";

const session = { zone: "Europe/Copenhagen", open: "09:00", close: "17:00", days: [1, 2, 3, 4, 5] };
const spec: MarketSpec = marketSpec({ symbol: "X", tick: 0.01, session });
const MONDAY = Date.UTC(2024, 0, 8);

/** Weekdays of a calm random walk. */
function daily(count: number, seed = 1): Bars {
  const random = new Random(seed);
  const bars = emptyBars(count);
  let price = 100;
  for (let i = 0; i < count; i++) {
    bars.time[i] = MONDAY + (Math.floor(i / 5) * 7 + (i % 5)) * DAY;
    bars.open[i] = price;
    price = Number((price * Math.exp(0.01 * random.normal())).toFixed(2));
    bars.close[i] = price;
    bars.high[i] = Number((Math.max(bars.open[i], price) + 0.2).toFixed(2));
    bars.low[i] = Number((Math.min(bars.open[i], price) - 0.2).toFixed(2));
    bars.volume[i] = 1000;
  }
  return bars;
}

/** Minutes of whole sessions (winter: 08:00 to 16:00 UTC). */
function minutes(days: number, seed = 2): Bars {
  const random = new Random(seed);
  const per = 480;
  const bars = emptyBars(days * per);
  let price = 100;
  for (let d = 0; d < days; d++)
    for (let m = 0; m < per; m++) {
      const i = d * per + m;
      bars.time[i] = MONDAY + (Math.floor(d / 5) * 7 + (d % 5)) * DAY + 8 * 60 * MINUTE + m * MINUTE;
      bars.open[i] = price;
      price = Number((price + 0.05 * random.normal()).toFixed(2));
      bars.close[i] = price;
      bars.high[i] = Math.max(bars.open[i], price);
      bars.low[i] = Math.min(bars.open[i], price);
      bars.volume[i] = 10;
    }
  return bars;
}

const kinds = (bars: Bars, timeframe = "1d", own = spec) =>
  qualityReport(bars, parseTimeframe(timeframe)!, own).findings.map((finding) => finding.kind);
const only = (bars: Bars, kind: FindingKind, timeframe = "1d", own = spec) => {
  const { findings } = qualityReport(bars, parseTimeframe(timeframe)!, own);
  expect(findings.map((finding) => finding.kind)).toEqual([kind]);
  return findings[0];
};

describe("clean bars", () => {
  it("have no finding, days and minutes", () => {
    for (let seed = 1; seed <= 8; seed++) expect(kinds(daily(500, seed)), `seed ${seed}`).toEqual([]);
    expect(kinds(minutes(12), "1m")).toEqual([]);
    expect(kinds(emptyBars(0))).toEqual([]);
    expect(kinds(sliceBars(daily(2), 0, 1))).toEqual([]);
  });

  it("are covered to the last session", () => {
    const report = qualityReport(minutes(5), parseTimeframe("1m")!, spec);
    expect([report.present, report.expected]).toEqual([5 * 480, 5 * 480]);
    expect(report.coverage.shares).toEqual([1, 1, 1, 1, 1]);
  });
});

describe("the checks", () => {
  it("find missing sessions, weekends and holidays not counted", () => {
    const bars = daily(100);
    const gap = only(withoutTimes(bars, new Set([bars.time[20], bars.time[21]])), "gap");
    expect([gap.bars, gap.from, gap.to]).toEqual([2, bars.time[20], bars.time[21]]);
    const holiday = marketSpec({ ...spec, session: { ...session, holidays: ["2024-02-05", "2024-02-06"] } });
    expect(kinds(withoutTimes(bars, new Set([bars.time[20], bars.time[21]])), "1d", holiday)).toEqual([]);
  });

  it("find holes within a session, and whole days between minutes", () => {
    const bars = minutes(10);
    const hole = new Set(Array.from(bars.time.subarray(1000, 1060)));
    expect(only(withoutTimes(bars, hole), "gap", "1m").bars).toBe(60);
    const day = new Set(Array.from(bars.time.subarray(480, 960)));
    expect(only(withoutTimes(bars, day), "gap", "1m").bars).toBe(480);
  });

  it("find bars at times when the market is closed", () => {
    const bars = daily(50);
    const extra = sliceBars(daily(50), 4, 5);
    const saturday = { ...extra, time: Float64Array.of(extra.time[0] + DAY) };
    const finding = only(mergeBars(bars, saturday).bars, "outside");
    expect(finding.times).toEqual([extra.time[0] + DAY]);
  });

  it("find spikes that come straight back, and steps that stay", () => {
    const bars = daily(200);
    bars.close[100] = 160;
    bars.high[100] = 161;
    const spike = only(bars, "spike");
    expect([spike.from, spike.times]).toEqual([bars.time[100], [bars.time[100]]]);
    const stepped = daily(200);
    for (const name of ["open", "high", "low", "close"] as const)
      for (let i = 120; i < 200; i++) stepped[name][i] = Number((stepped[name][i] / 2).toFixed(2));
    expect(only(stepped, "step").from).toBe(stepped.time[120]);
    const slipped = daily(200);
    for (const name of ["open", "high", "low", "close"] as const)
      for (let i = 60; i < 75; i++) slipped[name][i] = Number((slipped[name][i] * 10).toFixed(2));
    const { findings } = qualityReport(slipped, parseTimeframe("1d")!, spec);
    expect(findings.map((finding) => finding.kind)).toEqual(["step", "step"]);
    expect(findings[0].times).toHaveLength(15);
  });

  it("find prices that stand still, volume that is gone, prices off the tick", () => {
    const still = daily(100);
    for (let i = 40; i < 48; i++) still.open[i] = still.high[i] = still.low[i] = still.close[i] = still.close[39];
    expect(only(still, "frozen").bars).toBeGreaterThanOrEqual(7);
    const silent = daily(100);
    silent.volume.fill(0, 30, 35);
    expect(only(silent, "zeroVolume").bars).toBe(5);
    const without = daily(100);
    without.volume.fill(0);
    expect(kinds(without), "a source without volume has none to miss").toEqual([]);
    const off = daily(100);
    off.close[50] += 0.004;
    expect(only(off, "brokenTick").bars).toBe(1);
  });

  it("find days on another clock", () => {
    const bars = minutes(20);
    for (let i = 5 * 480; i < 12 * 480; i++) bars.time[i] += 60 * MINUTE;
    const { findings } = qualityReport(bars, parseTimeframe("1m")!, spec);
    const shift = findings.find((finding) => finding.kind === "shift")!;
    expect(shift.text).toContain("7 days sit 1 hour late");
    expect([shift.from, shift.to]).toEqual([bars.time[5 * 480], bars.time[12 * 480 - 1]]);
  });

  it("give keys that are the same at every look, and each its question", () => {
    const bars = daily(200);
    bars.close[100] = 160;
    bars.high[100] = 161;
    const keys = () => qualityReport(bars, parseTimeframe("1d")!, spec).findings.map((finding) => finding.key);
    expect(keys()).toEqual(keys());
    for (const check of QUALITY_CHECKS) expect(check.question, check.kind).toMatch(/\?$/);
  });

  it("never throw, whatever the bars", () => {
    const row = fc.tuple(fc.nat(40), fc.double({ min: -100, max: 100, noNaN: true }), fc.nat(3));
    fc.assert(
      fc.property(
        fc.uniqueArray(row, { selector: ([time]) => time, maxLength: 40 }),
        fc.constantFrom("1d", "1m", "1h", "1w"),
        (rows, timeframe) => {
          const bars = emptyBars(rows.length);
          [...rows]
            .sort((a, b) => a[0] - b[0])
            .forEach(([time, price, volume], i) => {
              bars.time[i] = MONDAY + time * (timeframe === "1m" ? MINUTE : timeframe === "1h" ? 60 * MINUTE : DAY);
              bars.open[i] = bars.high[i] = bars.low[i] = bars.close[i] = price;
              bars.volume[i] = volume;
            });
          for (const finding of qualityReport(bars, parseTimeframe(timeframe)!, spec).findings) {
            expect(finding.from).toBeLessThanOrEqual(finding.to);
            expect(finding.text).not.toContain("NaN");
          }
        },
      ),
      { numRuns: 150 },
    );
  });
});

describe("robust scores", () => {
  it("are those of the definition", () => {
    const values = Float64Array.from({ length: 61 }, (_, i) => ((i * 7) % 11) - 5);
    values[30] = 500;
    const [[row, score]] = [...robustScores(values)];
    const others = [...values].filter((_, i) => i !== 30).sort((a, b) => a - b);
    const centre = (others[29] + others[30]) / 2;
    const distances = others.map((x) => Math.abs(x - centre)).sort((a, b) => a - b);
    expect(row).toBe(30);
    expect(score).toBeCloseTo((500 - centre) / (1.4826 * ((distances[29] + distances[30]) / 2)), 9);
  });
});

describe("two sources", () => {
  it("are counted bar by bar", () => {
    const a = daily(100);
    const b = withoutTimes(daily(100), new Set([a.time[3], a.time[50]]));
    b.close[10] += 0.01;
    const comparison = compareSources(a, b, parseTimeframe("1d")!, 0.01);
    expect(comparison).toMatchObject({ both: 98, onlyA: 2, onlyB: 0, equal: 97, largest: [{ time: b.time[10] }], shift: { minutes: 0 } });
    expect(comparison.histogram.find((bin) => bin.ticks === 1)!.count).toBe(1);
    expect(comparison.spread.find((one) => one.percent === 50)!.difference).toBe(0);
  });

  it("tell the shift that would make them agree, in days and in minutes", () => {
    const late = daily(300);
    const moved = { ...late, time: late.time.map((time) => time + DAY) };
    expect(compareSources(daily(300), moved, parseTimeframe("1d")!, 0.01).shift).toMatchObject({ minutes: -1440, bars: -1 });
    const a = minutes(15);
    for (const shift of [-120, -60, 30, 60, 300]) {
      const b = { ...a, time: a.time.map((time) => time + shift * MINUTE) };
      expect(compareSources(a, b, parseTimeframe("1m")!, 0.01).shift.minutes, `${shift} minutes`).toBe(-shift);
    }
  });

  it("may have nothing in common", () => {
    const a = sliceBars(daily(100), 0, 40);
    const b = sliceBars(daily(100), 60, 100);
    expect(compareSources(a, b, parseTimeframe("1d")!, 0.01)).toMatchObject({ from: null, both: 0, largest: [] });
    expect(compareSources(emptyBars(0), b, parseTimeframe("1d")!, 0.01).from).toBe(null);
  });
});
