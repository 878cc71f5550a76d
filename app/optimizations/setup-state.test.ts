import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Parameter } from "#core/documents";
import { boundsFrom } from "./limit-form";
import { methodFrom, START_METHOD } from "./method-state";
import { axisOf, boundsOf, methodStateOf, varyOf, wishesOf } from "./setup-state";

const whole: Parameter = { name: "fast", kind: "whole", value: 10, min: 2, max: 50, step: 2 };
const yesNo: Parameter = { name: "filter", kind: "yesNo", value: true };

describe("a set-up that is taken up again", () => {
  it("varies what it varied, over the same values", () => {
    const range = fc
      .tuple(fc.integer({ min: -50, max: 50 }), fc.integer({ min: 0, max: 90 }), fc.integer({ min: 1, max: 9 }))
      .map(([from, more, step]) => ({ name: "fast", from, to: from + more, step }));
    const list = fc
      .uniqueArray(fc.integer({ min: -99, max: 99 }), { minLength: 1, maxLength: 6 })
      .map((values) => ({ name: "fast", values }));
    fc.assert(
      fc.property(fc.oneof(range, list), (item) => {
        const axis = axisOf(whole, { vary: [item] });
        expect(axis.varied).toBe(true);
        expect(varyOf(axis)).toEqual(item);
      }),
    );
  });

  it("keeps yes and no, and leaves alone what it did not vary", () => {
    for (const values of [[true], [false, true]])
      expect(varyOf(axisOf(yesNo, { vary: [{ name: "filter", values }] }))).toEqual({ name: "filter", values });
    expect(axisOf(whole, { vary: [] })).toMatchObject({ varied: false, from: "2", to: "50", step: "2", list: null });
  });

  it("has the same limits, whether a document left a side out or holds null", () => {
    const limits = [
      { metric: "trades", least: 30 },
      { metric: "maxDrawdownPercent", least: null, most: 25.5 },
    ];
    expect(boundsFrom(boundsOf(limits))).toEqual([
      { metric: "trades", least: 30, most: null },
      { metric: "maxDrawdownPercent", least: null, most: 25.5 },
    ]);
  });

  it("has the same objectives and method", () => {
    expect(wishesOf([{ metric: "mar", want: "more", weight: 2.5 }])).toEqual([{ metric: "mar", weight: "2.5" }]);
    expect(methodStateOf(undefined)).toEqual(START_METHOD);
    const evolution = {
      kind: "evolution" as const,
      population: 80,
      generations: 12,
      elite: 2,
      mutation: 0.15,
      islands: 2,
      seed: 9,
      patience: 8,
    };
    expect(methodFrom(methodStateOf(evolution))).toEqual({ kind: "evolution", population: 80, generations: 12, islands: 2, seed: 9 });
    expect(methodFrom(methodStateOf({ kind: "random", trials: 70, seed: 3 }))).toEqual({ kind: "random", trials: 70, seed: 3 });
  });
});
