import { describe, expect, it } from "vitest";
import { readSettings, readStrategy } from "#core/documents";
import { compareResult, expectClose } from "#core/testing/compare";
import { fixtureBars, fixtureJson } from "#core/testing/fixtures";
import { runPortfolio, type Member } from ".";

/** Not covered yet: weights by an estimated mode. */
const NOT_YET = ["06-risk-parity-one-market-twice", "07-minimum-variance-within-limits"];

describe("portfolios with known results", () => {
  it("05-given-weights", () => {
    const at = "research/05-given-weights";
    const plan = fixtureJson(`${at}/plan.json`);
    const want = fixtureJson(`${at}/expected.json`);
    const settings = readSettings(fixtureJson(`${at}/${plan.settings}`)).value!;
    const members = plan.members.map((member: { strategy: string }): Member => ({
      ...(member as unknown as Member),
      strategy: readStrategy(fixtureJson(`${at}/${member.strategy}`)).value!,
    }));
    const { result, problems } = runPortfolio(
      members,
      settings,
      settings.markets.map((market) => fixtureBars(`${at}/${market.bars}`)),
    );
    expect(problems).toEqual([]);
    compareResult(result!, want);
    expect(result!.weights).toEqual(want.weights);
    result!.members.forEach((member, m) => {
      expect(member.name).toBe(want.members[m].name);
      for (const key of ["profit", "drawdown"] as const)
        expectClose(member.contribution[key], want.members[m].contribution[key], 1e-7, `${member.name} ${key}`);
      for (const [key, value] of Object.entries(want.members[m].metrics))
        expectClose(member.metrics[key], value, 1e-7, `${member.name} ${key}`);
    });
    want.correlation.forEach((row: number[], i: number) =>
      row.forEach((x, j) => expectClose(result!.correlation[i][j], x, 1e-7, `correlation ${i} ${j}`)),
    );
    want.concentration.forEach((x: number, t: number) => expectClose(result!.concentration[t], x, 1e-7, `concentration ${t}`));
  });

  it.each(NOT_YET)("%s asks for weights that are not given", (folder) => {
    expect(fixtureJson(`research/${folder}/plan.json`).weights.mode).not.toBe("given");
  });
});
