import { describe, expect, it } from "vitest";
import { overlapOf, TrialTable, type Axis } from ".";

const axis = (name: string, values: number[]): Axis => ({ name, values, steps: true });
const SEARCH = { objective: [{ metric: "netProfit", want: "more" as const, weight: 1 }], limits: [] };

function table(axes: Axis[], net: (values: Record<string, number>) => number) {
  const count = axes.reduce((product, one) => product * one.values.length, 1);
  const numbers = Array.from({ length: count }, (_, i) => i);
  const made: TrialTable = new TrialTable(axes, SEARCH, numbers, numbers, () => Float64Array.from(numbers, (i) => net(made.values(i))));
  return made;
}

describe("two searches beside each other", () => {
  const first = table([axis("fast", [5, 10, 15]), axis("slow", [20, 40])], ({ fast, slow }) => fast + slow);

  it("share the trials with the same values, whatever the order of the names", () => {
    const second = table([axis("slow", [20, 40, 60]), axis("fast", [10, 15])], ({ fast, slow }) => fast + slow);
    const overlap = overlapOf(first, second)!;
    expect(overlap.rows.map(([a, b]) => [first.values(a), second.values(b)])).toEqual(
      overlap.rows.map(([a]) => [first.values(a), first.values(a)]),
    );
    expect(overlap.rows.length).toBe(4);
    expect(overlap.correlation).toBeCloseTo(1, 12);
    // fast 15, slow 40 is second to the two with slow 60
    expect(overlap.bestOfFirst).toEqual({ number: 3, rank: 3, of: 6 });
    expect(overlap.bestOfSecond).toBeNull();
  });

  it("agree in nothing where one is the other turned round, and say where the best falls", () => {
    const turned = table([axis("fast", [5, 10, 15]), axis("slow", [20, 40])], ({ fast, slow }) => -fast - slow);
    const overlap = overlapOf(first, turned)!;
    expect(overlap.correlation).toBeCloseTo(-1, 12);
    expect(overlap.bestOfFirst).toEqual({ number: 5, rank: 6, of: 6 });
  });

  it("have nothing in common where they vary other names, and a place without a rank where a trial is outside", () => {
    expect(
      overlapOf(
        first,
        table([axis("fast", [5])], () => 1),
      ),
    ).toBeNull();
    expect(
      overlapOf(
        first,
        table([axis("fast", [5]), axis("stop", [20])], () => 1),
      ),
    ).toBeNull();
    const outside = table([axis("fast", [5, 10, 15]), axis("slow", [20, 40])], ({ fast }) => (fast === 15 ? NaN : fast));
    expect(overlapOf(first, outside)!.bestOfFirst).toEqual({ number: 5, rank: null, of: 4 });
  });
});
