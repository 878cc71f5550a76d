import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { backtest } from "#core/runs";
import { fixtureBars, fixtureFolders, fixtureJson } from "#core/testing/fixtures";
import {
  packColumns,
  packResult,
  packRows,
  readSettings,
  readStrategy,
  unpackColumns,
  unpackResult,
  unpackRows,
  viewRows,
  momentKey,
} from ".";

describe("rows as bytes", () => {
  const row = fc.record({
    n: fc.option(fc.double({ noNaN: true, noDefaultInfinity: true })),
    at: fc.option(fc.date({ min: new Date(0), max: new Date("2100-01-01"), noInvalidDate: true }).map((date) => date.toISOString())),
    word: fc.option(fc.string()),
    yes: fc.option(fc.boolean()),
  });

  it("come back as they were, whatever is in them", () => {
    fc.assert(
      fc.property(fc.array(row), (rows) => {
        const shape = [
          ["n", "number"],
          ["at", "time"],
          ["word", "word"],
          ["yes", "truth"],
        ] as const;
        expect(unpackRows(packRows(rows, shape))).toEqual(rows);
      }),
    );
  });

  it("can be looked into without being unpacked", () => {
    fc.assert(
      fc.property(fc.array(row), (rows) => {
        const shape = [
          ["n", "number"],
          ["at", "time"],
          ["word", "word"],
          ["yes", "truth"],
        ] as const;
        const views = viewRows<Record<string, unknown>>(packRows(rows, shape));
        expect(views.map(({ n, at, word, yes }) => ({ n, at, word, yes }))).toEqual(rows);
        expect(JSON.stringify(views)).toBe(JSON.stringify(rows));
        for (const [i, { at }] of rows.entries()) expect(views[i][momentKey("at")]).toBe(at === null ? NaN : Date.parse(at));
      }),
    );
  });

  it("come back from a place in memory that is no multiple of eight", () => {
    const bytes = packColumns({ x: Float64Array.of(1.5, -2) });
    const shifted = new Uint8Array(bytes.length + 3);
    shifted.set(bytes, 3);
    expect([...unpackColumns<"x">(shifted.subarray(3)).x]).toEqual([1.5, -2]);
  });

  it("leave out a key that no row has", () => {
    expect(unpackRows(packRows([{ a: 1 }], [["a", "number"], ["b", "word"]]))).toEqual([{ a: 1 }]); // prettier-ignore
  });
});

describe("a result in pieces", () => {
  it.each(fixtureFolders("backtests"))("is the same document when put together again: %s", (folder) => {
    const at = `backtests/${folder}`;
    const settings = readSettings(fixtureJson(`${at}/settings.json`)).value!;
    const bars = settings.markets.map((market) => fixtureBars(`${at}/${market.bars}`));
    const { result } = backtest(readStrategy(fixtureJson(`${at}/strategy.json`)).value!, settings, bars);
    const { head, parts } = packResult(result!);
    expect(JSON.stringify(unpackResult(head, parts))).toBe(JSON.stringify(result));
  });
});
