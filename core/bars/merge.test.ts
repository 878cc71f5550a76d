import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { emptyBars, hashBars, mergeBars, withoutTimes, type Bars } from ".";

const barsOf = (rows: [time: number, close: number][]): Bars => {
  const bars = emptyBars(rows.length);
  rows.forEach(([time, close], i) => {
    bars.time[i] = time;
    bars.open[i] = bars.high[i] = bars.low[i] = bars.close[i] = close;
  });
  return bars;
};
const some = fc
  .uniqueArray(fc.tuple(fc.nat(40), fc.nat(3)), { selector: ([time]) => time })
  .map((rows) => barsOf([...rows].sort((a, b) => a[0] - b[0])));

describe("merging bars", () => {
  it("adds what is new, shows what changed, and takes it only where asked", () => {
    const before = barsOf([
      [1, 10],
      [2, 20],
      [4, 40],
    ]);
    const after = barsOf([
      [2, 21],
      [3, 30],
      [4, 40],
      [5, 50],
    ]);
    const taken = mergeBars(before, after);
    expect([taken.added, taken.changed, taken.same]).toEqual([2, 1, 1]);
    expect(Array.from(taken.bars.close)).toEqual([10, 21, 30, 40, 50]);
    expect(taken.changes).toMatchObject([{ time: 2, before: { close: 20 }, after: { close: 21 } }]);
    expect(Array.from(mergeBars(before, after, false).bars.close)).toEqual([10, 20, 30, 40, 50]);
  });

  it("holds every time of both, in order, and merging twice changes nothing more", () => {
    fc.assert(
      fc.property(some, some, (a, b) => {
        const { bars, added, changed, same } = mergeBars(a, b);
        expect(Array.from(bars.time)).toEqual([...new Set([...a.time, ...b.time])].sort((x, y) => x - y));
        expect(added + changed + same).toBe(b.length);
        const again = mergeBars(bars, b);
        expect([again.added, again.changed]).toEqual([0, 0]);
        expect(hashBars(again.bars)).toBe(hashBars(bars));
      }),
    );
  });

  it("leaves out the times it is told to, and no other", () => {
    fc.assert(
      fc.property(some, fc.array(fc.nat(40)), (bars, times) => {
        const left = withoutTimes(bars, new Set(times));
        expect(Array.from(left.time)).toEqual(Array.from(bars.time).filter((time) => !times.includes(time)));
      }),
    );
  });
});
