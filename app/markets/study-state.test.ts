import fc from "fast-check";
import { expect, it } from "vitest";
import { FORMULA_COLOURS, readStudy, writeStudy, type StudyState } from "./study-state";

const text = fc.string({ minLength: 1, maxLength: 20 }).filter((s) => s.trim() !== "");
const state: fc.Arbitrary<StudyState> = fc.record({
  source: fc.option(fc.integer({ min: 1, max: 99 })),
  timeframe: fc.option(fc.constantFrom("1m", "20m", "1d")),
  formulas: fc.array(
    fc.record({
      rule: text,
      label: text.filter((s) => !s.includes("|")),
      colour: fc.constantFrom(...FORMULA_COLOURS),
      place: fc.constantFrom("over" as const, "below" as const),
    }),
    { maxLength: 4 },
  ),
  compare: fc.uniqueArray(fc.constantFrom("KELP", "PEAT", "WOOL"), { maxLength: 3 }),
  at: fc.option(fc.constantFrom("2024-02-29", "2004-01-02")),
});

it("a study's state survives its address", () => {
  fc.assert(
    fc.property(state, (given) => {
      expect(readStudy(new URLSearchParams(writeStudy(given).toString()))).toEqual(given);
    }),
  );
});

it("what makes no sense in an address is left out", () => {
  expect(readStudy(new URLSearchParams("source=-3&at=yesterday&formula=over|plum||&compare=,,"))).toEqual({
    source: null,
    timeframe: null,
    formulas: [],
    compare: [],
    at: null,
  });
});
