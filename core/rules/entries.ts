import type { Bars } from "#core/bars";
import type { Step } from "#core/indicators";
import type { NewColumn } from "./column-memory";
import type { SeriesContext } from "./session-series";

/** A setting of a function: a figure made of numbers and parameters. */
export interface Setting {
  name: string;
  /** a whole number of bars */
  whole?: boolean;
  /** any whole number */
  integer?: boolean;
  least?: number;
  most?: number;
  default?: number;
}

type Column = Float64Array;

/**
 * One function of the notation. `inputs` are its series arguments in order; the first may be left out where it is
 * optional and then is close. This one entry serves the checker, the evaluator, the completion and the help page.
 */
export interface FunctionEntry {
  name: string;
  inputs: string[];
  /** whether the first input may be left out */
  closeByDefault: boolean;
  settings: Setting[];
  /** inputs that may follow without end (min, max) */
  variadic?: boolean;
  /** places of inputs that are yes/no */
  yesNo?: readonly number[];
  /** a series that may follow the settings, and which one it is where it is left out */
  last?: { name: string; default: string };
  /** whether a value rests on all bars before it, so that even fixed inputs give no fixed value */
  remembers?: boolean;
  parts?: string[];
  defaultPart?: string;
  definition: string;
  example: string;
  source?: string;
  /** bars before the first value, beyond those of the inputs */
  warmup: (settings: number[], part: string | null) => number;
  /** fills a column of `make`, where it is a function whose memory is worth using again, or one of its own */
  compute: (inputs: Column[], settings: number[], bars: Bars, context: SeriesContext, make: NewColumn) => Column | Record<string, Column>;
  /** bar by bar, for inputs that become known while a run goes on; only where a value rests on more than the warm-up's bars */
  step?: (settings: number[], part: string | null, bars: Bars) => Step;
}

export const N: Setting = { name: "n", whole: true, least: 1 };
export const wholeSetting = (name: string, value?: number): Setting => ({ name, whole: true, least: 1, default: value });

type Extra = Partial<Omit<FunctionEntry, "name" | "compute">>;

/** A function of one series and a length; `fills`: it takes the column that it fills. */
export function windowed(
  name: string,
  definition: string,
  compute: (x: Column, n: number, out?: Column) => Column,
  { fills = false, ...extra }: Extra & { fills?: boolean } = {},
): FunctionEntry {
  return {
    name,
    inputs: ["x"],
    closeByDefault: true,
    settings: [N],
    definition,
    example: `${name}(close, 20)`,
    warmup: ([n]) => n - 1,
    ...extra,
    compute: ([x], [n], _bars, _context, make) => (fills ? compute(x, n, make(x.length)) : compute(x, n)),
  };
}

/** A function that works value by value; what is not finite is missing. */
export function pointwise(name: string, definition: string, f: (x: number) => number, example: string): FunctionEntry {
  return {
    name,
    inputs: ["x"],
    closeByDefault: false,
    settings: [],
    definition,
    example,
    warmup: () => 0,
    compute: ([x]) => x.map((value) => (Number.isFinite(f(value)) ? f(value) : NaN)),
  };
}

export function folded(name: "min" | "max", definition: string): FunctionEntry {
  const pick = Math[name];
  return {
    name,
    inputs: ["x", "y"],
    variadic: true,
    closeByDefault: false,
    settings: [],
    definition,
    example: `${name}(open, close)`,
    warmup: () => 0,
    compute: (inputs) => inputs[0].map((_, i) => inputs.reduce((best, x) => pick(best, x[i]), inputs[0][i])),
  };
}

/** Halves away from zero. */
export const roundAway = (x: number): number => {
  const down = Math.floor(Math.abs(x));
  return Math.sign(x) * (Math.abs(x) - down >= 0.5 ? down + 1 : down);
};
