import { describe, expect, it } from "vitest";
import { barFault, DAY, hashBars, MarketCalendar, monthOf, parseTimeframe, resample, type Bars } from "#core/bars";
import { compareSources, qualityReport } from "#core/quality";
import { FLAWS } from "./breakwater";
import { saltmarchDates, saltmarchSession } from "./calendar";
import { demoBars, DEMO_MARKETS, demoSources, type DemoSource } from "./markets";
import { backlogOf, DEMO_SHARES, shareBars } from "./shares";

/**
 * Variance ratio over q bars with the heteroskedasticity-robust z statistic (Lo and MacKinlay 1988, *Stock Market Prices
 * Do Not Follow Random Walks*): 1 and near 0 for a random walk, above for a market that trends.
 */
function varianceRatio(close: Float64Array, q: number): { ratio: number; z: number } {
  const p = close.map(Math.log);
  const n = p.length - 1;
  const mean = (p[n] - p[0]) / n;
  let one = 0;
  for (let t = 1; t <= n; t++) one += (p[t] - p[t - 1] - mean) ** 2;
  let many = 0;
  for (let t = q; t <= n; t++) many += (p[t] - p[t - q] - q * mean) ** 2;
  const ratio = many / (q * (n - q + 1) * (1 - q / n)) / (one / (n - 1));
  let theta = 0;
  for (let j = 1; j < q; j++) {
    let together = 0;
    for (let t = j + 1; t <= n; t++) together += (p[t] - p[t - 1] - mean) ** 2 * (p[t - j] - p[t - j - 1] - mean) ** 2;
    theta += ((2 * (q - j)) / q) ** 2 * (together / one ** 2);
  }
  return { ratio, z: (ratio - 1) / Math.sqrt(theta) };
}

const bars = Object.fromEntries(DEMO_MARKETS.map((market) => [market.spec.symbol, demoBars(market)]));

describe("the demo's bars", () => {
  it("are valid, and the same at every call", () => {
    for (const market of DEMO_MARKETS) {
      const made = bars[market.spec.symbol];
      expect(made.length).toBeGreaterThan(5000);
      for (let i = 0; i < made.length; i++) {
        expect(barFault(made.open[i], made.high[i], made.low[i], made.close[i], made.volume[i])).toBe(null);
        if (i > 0) expect(made.time[i]).toBeGreaterThan(made.time[i - 1]);
      }
      expect(hashBars(demoBars(market))).toBe(hashBars(made));
    }
  });

  it("lie on session dates only, with a few missing", () => {
    const calendar = new MarketCalendar(saltmarchSession());
    for (const time of bars.FERRY.time) expect(calendar.isSessionDate(time / 86_400_000)).toBe(true);
  });

  it("have fat tails and volatility in clusters, as real markets do", () => {
    for (const [symbol, { close }] of Object.entries(bars)) {
      if (symbol === "TIDE") continue;
      const returns = Array.from(close.subarray(1), (c, i) => Math.log(c / close[i]));
      const n = returns.length;
      const variance = returns.reduce((sum, r) => sum + r * r, 0) / n;
      expect(returns.reduce((sum, r) => sum + r ** 4, 0) / n / variance ** 2).toBeGreaterThan(4.5);
      const size = returns.map(Math.abs);
      const mean = size.reduce((a, b) => a + b, 0) / n;
      let together = 0;
      for (let t = 10; t < n; t++) together += (size[t] - mean) * (size[t - 10] - mean);
      expect(together / size.reduce((sum, x) => sum + (x - mean) ** 2, 0)).toBeGreaterThan(0.03);
    }
  });
});

describe("the planted truths", () => {
  it("FERRY trends: its variance grows faster than a random walk's", () => {
    const { ratio, z } = varianceRatio(bars.FERRY.close, 40);
    expect(ratio).toBeGreaterThan(1.3);
    expect(z).toBeGreaterThan(2.5);
  });

  it("PEAT can't be told from a random walk", () => {
    for (const q of [2, 5, 10, 20, 40, 60]) expect(Math.abs(varianceRatio(bars.PEAT.close, q).z)).toBeLessThan(1.96);
  });

  it("KELP leans a little, less than FERRY", () => {
    const kelp = varianceRatio(bars.KELP.close, 40).ratio;
    expect(kelp).toBeGreaterThan(1.1);
    expect(kelp).toBeLessThan(varianceRatio(bars.FERRY.close, 40).ratio);
  });

  it("GLASS can't be told from a random walk either", () => {
    for (const q of [2, 5, 10, 20, 40, 60]) expect(Math.abs(varianceRatio(bars.GLASS.close, q).z), `${q} days`).toBeLessThan(1.96);
  });

  it("TIDE falls back after two days of a spike, and knows prices below zero", () => {
    const { close, low } = bars.TIDE;
    expect(Math.min(...low)).toBeLessThan(0);
    const after: number[] = [];
    for (let t = 2; t + 2 < close.length; t++)
      if (close[t] - close[t - 1] > 10 && close[t - 1] - close[t - 2] > 10) after.push(close[t + 2] - close[t]);
    expect(after.length).toBeGreaterThan(80);
    expect(tOf(after)).toBeLessThan(-10);
  });

  it("BARLEY rises in spring and falls into the harvest", () => {
    const [spring, harvest, rest]: [number[], number[], number[]] = [[], [], []];
    const { close, time } = bars.BARLEY;
    for (let t = 1; t < close.length; t++) {
      const month = monthOf(time[t] / DAY) % 12;
      (month >= 2 && month <= 5 ? spring : month >= 6 && month <= 8 ? harvest : rest).push(Math.log(close[t] / close[t - 1]));
    }
    expect(tOf(spring)).toBeGreaterThan(3);
    expect(tOf(harvest)).toBeLessThan(-3);
    expect(Math.abs(tOf(rest))).toBeLessThan(2);
  });

  it("SHORE10 ÷ SALT40 above its average tells storm from calm", () => {
    const shore = new Map(Array.from(bars.SHORE10.time, (time, i) => [time, bars.SHORE10.close[i]]));
    const ratios: number[] = [];
    const [storm, calm]: [number[], number[]] = [[], []];
    const { close, time } = bars.SALT40;
    for (let t = 0; t + 1 < close.length; t++) {
      const bond = shore.get(time[t]);
      if (bond === undefined) continue;
      ratios.push(bond / close[t]);
      const mean = ratios.slice(-20).reduce((a, b) => a + b, 0) / Math.min(20, ratios.length);
      if (ratios.length > 20) (bond / close[t] > mean ? storm : calm).push(Math.log(close[t + 1] / close[t]));
    }
    const size = (list: number[]) => list.reduce((sum, r) => sum + r * r, 0) / list.length;
    expect(Math.sqrt(size(storm) / size(calm))).toBeGreaterThan(1.25);
    expect(storm.reduce((a, b) => a + b, 0) / storm.length).toBeLessThan(calm.reduce((a, b) => a + b, 0) / calm.length);
  });

  it("shares with a rising backlog do better than the others afterwards", () => {
    const dates = saltmarchDates();
    const board = new Map<number, number>();
    const salt = bars.SALT40;
    for (let t = 1; t < salt.length; t++) board.set(salt.time[t] / DAY, Math.log(salt.close[t] / salt.close[t - 1]));
    const [rising, falling]: [number[], number[]] = [[], []];
    DEMO_SHARES.forEach((_, index) => {
      const { time, close } = shareBars(index, dates, board);
      const backlog = backlogOf(index, dates);
      for (let k = 1; k < backlog.time.length; k++) {
        const from = time.findIndex((at) => at > backlog.time[k]);
        if (from < 0 || from + 40 >= close.length) continue;
        let common = 0;
        for (let t = from + 1; t <= from + 40; t++) common += board.get(time[t] / DAY) ?? 0;
        (backlog.value[k] > backlog.value[k - 1] ? rising : falling).push(Math.log(close[from + 40] / close[from]) - common);
      }
    });
    expect(rising.length + falling.length).toBeGreaterThan(3000);
    const mean = (list: number[]) => list.reduce((a, b) => a + b, 0) / list.length;
    const variance = (list: number[]) => list.reduce((sum, x) => sum + (x - mean(list)) ** 2, 0) / (list.length - 1);
    const t = (mean(rising) - mean(falling)) / Math.sqrt(variance(rising) / rising.length + variance(falling) / falling.length);
    expect(t).toBeGreaterThan(4);
  });
});

/** Student's t of the mean against 0. */
function tOf(list: readonly number[]): number {
  const mean = list.reduce((a, b) => a + b, 0) / list.length;
  const variance = list.reduce((sum, x) => sum + (x - mean) ** 2, 0) / (list.length - 1);
  return mean / Math.sqrt(variance / list.length);
}

/** Correlation of the first hour's move with the rest of the day's. */
function afterOpening(minutes: Bars): number {
  const days = new Map<number, number[]>();
  for (let i = 0; i < minutes.length; i++) {
    const day = Math.floor(minutes.time[i] / DAY);
    const rows = days.get(day);
    if (rows === undefined) days.set(day, [i]);
    else rows.push(i);
  }
  const [x, y]: [number[], number[]] = [[], []];
  for (const rows of days.values()) {
    const start = minutes.time[rows[0]];
    const hour = rows.find((i) => minutes.time[i] - start >= 3_600_000);
    if (hour === undefined) continue;
    x.push(minutes.open[hour] - minutes.open[rows[0]]);
    y.push(minutes.close[rows[rows.length - 1]] - minutes.open[hour]);
  }
  const mean = (list: number[]) => list.reduce((a, b) => a + b, 0) / list.length;
  const [mx, my] = [mean(x), mean(y)];
  let [xy, xx, yy] = [0, 0, 0];
  for (let i = 0; i < x.length; i++) {
    xy += (x[i] - mx) * (y[i] - my);
    xx += (x[i] - mx) ** 2;
    yy += (y[i] - my) ** 2;
  }
  return xy / Math.sqrt(xx * yy);
}

describe("both sources of every market", () => {
  const all = new Map<string, DemoSource[]>(DEMO_MARKETS.map((market) => [market.spec.symbol, [...demoSources(market)]]));

  it("cover daily bars, and minutes where they are promised", () => {
    for (const [symbol, sources] of all) {
      expect(
        sources.filter((one) => one.timeframe === "1d").map((one) => one.source),
        symbol,
      ).toEqual(["Lighthouse", "Breakwater"]);
      for (const { bars: made } of sources)
        for (let i = 0; i < made.length; i++) {
          if (barFault(made.open[i], made.high[i], made.low[i], made.close[i], made.volume[i]) !== null) expect.fail(`${symbol} row ${i}`);
          if (i > 0 && made.time[i] <= made.time[i - 1]) expect.fail(`${symbol} time ${i}`);
        }
    }
    const fine = (symbol: string) => all.get(symbol)!.filter((one) => one.timeframe === "1m");
    expect([fine("FERRY").length, fine("KELP").length, fine("TIDE").length]).toEqual([2, 2, 1]);
    expect(fine("TIDE")[0].bars.length).toBeGreaterThan(1_500_000);
  });

  it("minutes add up to the days", () => {
    const [daily, , minutes] = all.get("KELP")!;
    const market = DEMO_MARKETS.find((one) => one.spec.symbol === "KELP")!;
    const { bars: made, outside } = resample(
      minutes.bars,
      parseTimeframe("1m")!,
      parseTimeframe("1d")!,
      new MarketCalendar(market.spec.session),
    );
    expect(outside).toBe(0);
    const first = daily.bars.time.indexOf(made.time[0]);
    expect(daily.bars.length - first).toBe(made.length);
    for (const name of ["time", "open", "high", "low", "close"] as const)
      expect(Array.from(made[name]), name).toEqual(Array.from(daily.bars[name].subarray(first)));
  });

  it("KELP runs on after its opening range, FERRY does not", () => {
    const kelp = afterOpening(all.get("KELP")![2].bars);
    const ferry = afterOpening(all.get("FERRY")![2].bars);
    expect(kelp).toBeGreaterThan(0.3);
    expect(Math.abs(ferry)).toBeLessThan(kelp / 2);
  });

  it("the quality report finds every planted flaw", () => {
    for (const [symbol, flaws] of Object.entries(FLAWS)) {
      const { spec } = DEMO_MARKETS.find((market) => market.spec.symbol === symbol)!;
      for (const flaw of flaws) {
        const source = all.get(symbol)!.find((one) => one.source === flaw.source && one.timeframe === flaw.timeframe)!;
        const { findings } = qualityReport(source.bars, parseTimeframe(source.timeframe)!, spec);
        const at = Date.parse(flaw.on);
        const found = findings.filter((one) => one.kind === flaw.kind && one.from < at + DAY && one.to >= at);
        expect(found.length, `${symbol}: ${flaw.about}`).toBeGreaterThan(0);
      }
    }
  });

  it("the comparison tells the shifted clock of KELP's second source, and no other", () => {
    const minutes = (symbol: string) =>
      all
        .get(symbol)!
        .filter((one) => one.timeframe === "1m")
        .map((one) => one.bars);
    const [a, b] = minutes("KELP");
    const kelp = compareSources(a, b, parseTimeframe("1m")!, 0.25);
    expect(kelp.shift.minutes).toBe(0);
    const moved = kelp.stretches.filter((stretch) => stretch.minutes !== 0);
    expect(moved.map((stretch) => stretch.minutes)).toEqual([-60]);
    expect(new Date(moved[0].from).getUTCFullYear()).toBe(2024);
    const [c, d] = minutes("FERRY");
    const ferry = compareSources(c, d, parseTimeframe("1m")!, 0.5);
    expect([ferry.shift.minutes, ferry.stretches]).toEqual([0, []]);
  });
});
