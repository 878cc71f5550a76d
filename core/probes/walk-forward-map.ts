import { walkForwardMap, type Part, type WalkForward, type Walker } from "#core/walk-forward";
import { probe, type ProbeInput } from "./kind";
import { readChoice, readyWalker, storedChoice, WALK_FIELDS, type StoredChoice } from "./walk-forward";

interface Input extends ProbeInput {
  search: unknown;
  windows: number[];
  outShare: number[];
  anchored: boolean;
  choose: "best" | "recommended";
  efficiency: number;
  profitable: number;
  largestShare: number;
}

export const walkForwardMapProbe = probe<Input, { walker: Walker; plan: WalkForward; parts: Part[] }, StoredChoice>({
  kind: "walkForwardMap",
  name: "Walk-forward map",
  question: "Does a region of walk-forward settings hold, or a single one?",
  caution: "It does not say which setting earns most: the cells share their data, so that many of them holding is one finding, not many.",
  needs: "nothing",
  fields: [
    ...WALK_FIELDS,
    { key: "windows", label: "Windows", kind: "numbers", initial: [6, 8, 10, 12, 14, 16], least: 1, most: 200, whole: true },
    { key: "outShare", label: "Out-of-sample shares, %", kind: "numbers", initial: [15, 20, 25, 30], least: 1, most: 99, whole: false },
    { key: "efficiency", label: "A cell holds from an efficiency of", kind: "number", initial: 40, unit: "%" },
    { key: "profitable", label: "with at least so many windows in profit", kind: "number", initial: 55, least: 0, most: 100, unit: "%" },
    {
      key: "largestShare",
      label: "and at most so much of the profit in one window",
      kind: "number",
      initial: 60,
      least: 0,
      most: 100,
      unit: "%",
    },
  ],
  criteria: [
    { key: "depth", label: "Depth of the region that holds", unit: "count", want: "least", initial: 2, from: 0, to: 100 },
    { key: "holding", label: "Cells that hold", unit: "percent", want: "least", initial: null, from: 0, to: 100 },
  ],
  unitName: "fits",
  prepare(input, context) {
    const made = readyWalker(
      input,
      input.windows,
      input.outShare,
      [
        { figure: "efficiency", least: input.efficiency / 100 },
        { figure: "profitable", least: input.profitable / 100 },
        { figure: "largestShare", most: input.largestShare / 100 },
      ],
      context,
    );
    if (made.value === null) return made;
    const deepest = Math.ceil(Math.min(...[input.windows.length, input.outShare.length].filter((n) => n > 1), Infinity) / 2);
    if ((input.criteria.depth ?? 0) > deepest && Number.isFinite(deepest))
      return {
        value: null,
        problems: [
          {
            path: "criteria.depth",
            message: `no cell of a map of ${input.windows.length} by ${input.outShare.length} can lie deeper than ${deepest}`,
          },
        ],
      };
    const { walker, plan } = made.value;
    return { value: { walker, plan, parts: walker.fitParts(plan.windows, plan.outShare) }, problems: [] };
  },
  units: ({ parts }) => parts.length,
  compute: ({ walker, parts }, unit) => storedChoice(walker.fit(parts[unit])),
  conclude({ walker, plan, parts }, choices) {
    parts.forEach((part, k) => walker.know(part, readChoice(choices[k])));
    const { cells, recommended } = walkForwardMap(walker, plan);
    const holding = cells.filter((cell) => cell.holds).length;
    const depth = Math.max(...cells.map((cell) => cell.depth ?? 0));
    return {
      got: { depth, holding: (100 * holding) / cells.length },
      said: `${holding} of ${cells.length} cells hold; ${
        recommended === null
          ? holding === 0
            ? "none is recommended, since none holds"
            : "none is recommended: no cell is surrounded by cells that hold"
          : `recommended: ${recommended.windows} windows, ${recommended.outShare} % out of sample`
      }`,
      drawings: [{ kind: "map", windows: plan.windows, outShare: plan.outShare, cells, recommended }],
      weight: walker.dates.length,
    };
  },
});
