import { describe, expect, it } from "vitest";
import { expectClose } from "#core/testing/compare";
import { planParts } from "#core/testing/research";
import { readWalkForward, Walker, walkForwardMap } from ".";

const walker = (folder: string) => {
  const { plan, expected, strategy, settings, bars } = planParts(`research/${folder}`);
  const read = readWalkForward(plan);
  expect(read.problems).toEqual([]);
  const prepared = Walker.prepare(strategy, settings, read.value!, bars);
  expect(prepared.problems).toEqual([]);
  return { plan: read.value!, walker: prepared.value!, expected };
};

describe("walk-forwards with known results", () => {
  it("03-four-windows", () => {
    const { plan, walker: own, expected } = walker("03-four-windows");
    const got = own.walk(plan.windows[0], plan.outShare[0]);
    got.windows.forEach((window, k) => {
      const want = expected.windows[k];
      expect([window.fit, window.judge, window.values]).toEqual([want.fit, want.judge, want.values]);
      for (const part of ["in", "out"] as const)
        for (const [key, value] of Object.entries(want[part])) expectClose(window[part]![key], value, 1e-7, `${part} ${key} of ${k}`);
    });
    expect(got.windows.length).toBe(expected.windows.length);
    expect(got.stitched.date).toEqual(expected.stitched.date);
    got.stitched.equity.forEach((x, t) => expectClose(x, expected.stitched.equity[t], 1e-9, `stitched ${t}`));
    for (const key of ["efficiency", "profitable", "largestShare"] as const) expectClose(got[key], expected[key], 1e-7, key);
    for (const [key, value] of Object.entries(expected.steadiness)) expectClose(got.steadiness[key], value, 1e-9, key);
    expect([got.refitEvery, got.nextRefit]).toEqual([expected.refitEvery, expected.nextRefit]);
  });

  it("04-map", () => {
    const { plan, walker: own, expected } = walker("04-map");
    const got = walkForwardMap(own, plan);
    expect(got.recommended).toEqual(expected.recommended);
    expect(got.cells.length).toBe(expected.cells.length);
    got.cells.forEach((cell, i) => {
      for (const [key, value] of Object.entries(expected.cells[i])) expectClose(cell[key as "windows"], value, 1e-7, `${key} of cell ${i}`);
    });
  });
});
