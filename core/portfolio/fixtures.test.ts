import { describe, expect, it } from "vitest";
import { readStrategy } from "#core/documents";
import { compareResult, expectClose } from "#core/testing/compare";
import { fixtureJson } from "#core/testing/fixtures";
import { planParts } from "#core/testing/research";
import { estimateWeights, readPortfolio, runPortfolio, type Member } from ".";

describe("portfolios with known results", () => {
  it.each(["05-given-weights", "06-risk-parity-one-market-twice", "07-minimum-variance-within-limits"])("%s", (folder) => {
    const at = `research/${folder}`;
    const { plan, expected: want, settings, bars } = planParts(at);
    const read = readPortfolio(plan);
    expect(read.problems).toEqual([]);
    const members = read.value!.members.map((member): Member => {
      const strategy = readStrategy(fixtureJson(`${at}/${member.strategy as string}`)).value!;
      return { ...member, name: member.name ?? strategy.name!, strategy, weight: member.weight ?? 0 };
    });
    const weights = estimateWeights(members, read.value!.weights, settings, bars);
    expect(weights.problems).toEqual([]);
    want.weights.forEach((x: number, m: number) => expect(Math.abs(weights.value![m] - x)).toBeLessThan(1e-6));
    // estimated weights agree to 1e-6, so the run is held against the one with exactly those that are known
    const { result, problems } = runPortfolio(
      members.map((member, m) => ({ ...member, weight: want.weights[m] })),
      settings,
      bars,
    );
    expect(problems).toEqual([]);
    compareResult(result!, want);
    result!.members.forEach((member, m) => {
      expect(member.name).toBe(want.members[m].name);
      for (const key of ["profit", "drawdown"] as const)
        expectClose(member.contribution[key], want.members[m].contribution[key], 1e-7, `${member.name} ${key}`);
      for (const [key, value] of Object.entries(want.members[m].metrics))
        expectClose(member.metrics[key], value, 1e-7, `${member.name} ${key}`);
    });
    want.correlation.forEach((row: (number | null)[], i: number) =>
      row.forEach((x, j) => expectClose(result!.correlation[i][j], x, 1e-7, `correlation ${i} ${j}`)),
    );
    want.concentration.forEach((x: number | null, t: number) => expectClose(result!.concentration[t], x, 1e-7, `concentration ${t}`));
  });
});

describe("portfolios that can't be", () => {
  const plan = fixtureJson("research/05-given-weights/plan.json") as { members: object[] };
  const refused = (change: object) => readPortfolio({ ...plan, ...change }).problems.map((p) => `${p.path}: ${p.message}`)[0];
  it.each<[object, RegExp]>([
    [{ weights: { mode: "riskParity" } }, /^weights.from: weights that are estimated need the dates/],
    [{ weights: { mode: "equal", least: 0.1 } }, /^weights.least: only minimumVariance and maximumDiversification take least/],
    [
      { weights: { mode: "minimumVariance", from: "2015-01-01", to: "2016-01-01", least: 0.6 } },
      /^weights.least: 2 members of at least 0.6 come to more than 1/,
    ],
    [
      { weights: { mode: "minimumVariance", from: "2015-01-01", to: "2016-01-01", most: 0.3 } },
      /^weights.most: 2 members of at most 0.3 come to less than 1/,
    ],
    [{ weights: { mode: "riskParity", from: "2016-01-01", to: "2015-01-01" } }, /^weights.to/],
    [{ weights: { mode: "equal", every: 12 } }, /^weights.every: .*not estimated/],
    [{ weights: { mode: "riskParity", from: "2015-01-01", to: "2016-01-01", every: 0 } }, /^weights.every.*at least 1 month/],
    [{ members: [] }, /^members: .*at least one member/],
    [{ members: [{ strategy: "a.json" }] }, /^members\[0\].weight: weights by hand need a weight/],
    [{ colour: 1 }, /^colour/],
  ])("%j", (change, message) => {
    expect(refused(change)).toMatch(message);
  });
});
