import { describe, expect, it } from "vitest";
import { ColumnStore, checkRule } from "#core/rules";
import { benchBars, DAILY } from "../bench/data";
import { SharedColumns, type ColumnMessage } from "./shared-columns";

const bars = benchBars(300, DAILY.step);
const formula = (text: string) => checkRule(text).formula!;

/** Two threads that hear each other. */
function pair(most?: number) {
  const boxes: ColumnMessage[][] = [[], []];
  const thread = (own: number) => {
    const store = new ColumnStore(bars);
    const columns = new SharedColumns({ post: (message) => void boxes[1 - own].push(message), receive: () => boxes[own].shift() }, most);
    columns.join(7, [store]);
    return { store, columns };
  };
  return { one: thread(0), other: thread(1), boxes };
}

describe("columns that threads share", () => {
  it("are taken over by the other threads of the job, equal and in shared memory", () => {
    const { one, other, boxes } = pair();
    const made = one.store.column(formula("sma(close, 20)"), {});
    // the bars themselves every thread has
    expect(boxes[1].map(({ key }) => key)).toEqual(["(sma close 20)"]);
    other.columns.take();
    expect(boxes[1]).toEqual([]);
    const taken = other.store.column(formula("sma(close, 20)"), {});
    expect(taken).toEqual(made);
    expect(taken.buffer).toBeInstanceOf(SharedArrayBuffer);
    // what was taken is not handed on
    expect(boxes[0].filter(({ key }) => key === "(sma close 20)")).toEqual([]);
  });

  it("stay the owner's: its memory may be used again without changing what others have", () => {
    const { one, other } = pair();
    const made = one.store.column(formula("ema(close, 9)"), {}).slice();
    other.columns.take();
    one.store.column(formula("ema(close, 9)"), {}).fill(0);
    expect(other.store.column(formula("ema(close, 9)"), {})).toEqual(made);
  });

  it("of another job are let go, and no more than a bound is handed out", () => {
    const { one, other } = pair();
    one.store.column(formula("sma(close, 5)"), {});
    other.columns.join(8, [new ColumnStore(bars)]);
    other.columns.take();
    const small = pair(bars.length * 8 * 2);
    for (let n = 2; n < 9; n++) small.one.store.column(formula(`sma(close, ${n})`), {});
    expect(small.boxes[1].length).toBe(2);
  });
});
