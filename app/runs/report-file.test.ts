import { describe, expect, it } from "vitest";
import { readSettings, readStrategy } from "#core/documents";
import { backtest } from "#core/runs";
import { fixtureBars, fixtureJson } from "#core/testing/fixtures";
import { reportFile } from "./report-file";

const at = "research/01-two-averages";
const settings = readSettings(fixtureJson(`${at}/settings.json`)).value!;
const strategy = readStrategy(fixtureJson(`${at}/strategy.json`)).value!;
const { result } = backtest(
  strategy,
  settings,
  settings.markets.map((market) => fixtureBars(`${at}/${market.bars}`)),
);
const page = (more: object = {}) =>
  reportFile({
    name: "Tide line",
    run: 3,
    version: 2,
    fingerprint: "abc123",
    engine: "3",
    createdAt: Date.UTC(2026, 0, 2, 3, 4),
    settings,
    strategy,
    result: result!,
    trials: 1234,
    ...more,
  });

describe("the report file", () => {
  it("needs nothing but itself: no script, no address, no file", () => {
    const text = page();
    expect(text).not.toMatch(/<script|https?:|src=|href=|@import|url\(/);
    expect(text.startsWith("<!doctype html>")).toBe(true);
  });

  it("tells what the run is, by what it was computed, and what was tried", () => {
    const text = page();
    for (const part of ["Tide line, run 3", "version 2", "abc123", "engine version 3", "1,234 trials", "2026-01-02 03:04"])
      expect(text).toContain(part);
    expect(text).toContain("<polyline");
    expect(text).toContain("The rules in words");
    expect(text).toContain("spread, ticks");
    expect(text.match(/<tr>/g)!.length).toBeGreaterThan(60);
  });

  it("takes names as text", () => {
    const text = page({ name: '<img onerror="x">&' });
    expect(text).not.toContain("<img");
    expect(text).toContain("&lt;img onerror=&quot;x&quot;&gt;&amp;, run 3");
  });

  it("stands without trades, too", () => {
    const bare = { ...result!, trades: [], equity: { time: result!.equity.time, equity: result!.equity.equity.map(() => 5), balance: [] } };
    const text = page({ result: bare });
    expect(text).not.toMatch(/NaN|Infinity|undefined/);
  });
});
