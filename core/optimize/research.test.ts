import { describe, expect, it } from "vitest";
import { expectClose } from "#core/testing/compare";
import { planParts } from "#core/testing/research";
import { optimize, prepareSearch, readOptimization, searchSettings } from ".";

describe("optimizations with known results", () => {
  it.each(["01-two-averages", "02-several-objectives"])("%s", (folder) => {
    const { plan, expected, strategy, settings, bars } = planParts(`research/${folder}`);
    const read = readOptimization(plan);
    expect(read.problems).toEqual([]);
    const { from, to, ...search } = read.value!;
    const prepared = prepareSearch(strategy, searchSettings(settings, from, to), search, bars);
    expect(prepared.problems).toEqual([]);
    const got = optimize(prepared.value!);
    const { best, recommended, plateau, pbo, deflatedSharpe } = got;
    expect({ best, recommended, plateau }).toEqual({
      best: expected.best,
      recommended: expected.recommended,
      plateau: expected.plateau,
    });
    expectClose(pbo, expected.pbo, 1e-9, "pbo");
    expectClose(deflatedSharpe, expected.deflatedSharpe, 1e-7, "deflated Sharpe");
    expect(got.trials.length).toBe(expected.trials.length);
    got.trials.forEach((trial, i) => {
      const want = expected.trials[i];
      expect([trial.number, trial.values]).toEqual([want.number, want.values]);
      expectClose(trial.fit, want.fit, 1e-7, `fit of ${i}`);
      expectClose(trial.fragility, want.fragility, 1e-7, `fragility of ${i}`);
      expect(trial.depth, `depth of ${i}`).toBe(want.depth);
      for (const [key, value] of Object.entries(want.metrics)) expectClose(trial.metrics[key], value, 1e-7, `${key} of ${i}`);
    });
  });
});
