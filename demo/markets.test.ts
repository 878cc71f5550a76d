import { describe, expect, it } from "vitest";
import { barFault, hashBars, MarketCalendar } from "#core/bars";
import { demoBars, DEMO_MARKETS } from "./markets";

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
    const calendar = new MarketCalendar(DEMO_MARKETS[0].spec.session);
    for (const time of bars.FERRY.time) expect(calendar.isSessionDate(time / 86_400_000)).toBe(true);
  });

  it("have fat tails and volatility in clusters, as real markets do", () => {
    for (const { close } of Object.values(bars)) {
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
});
