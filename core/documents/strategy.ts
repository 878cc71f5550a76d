import {
  checkShape,
  exact,
  figure,
  formatKey,
  list,
  number,
  numberOrTruth,
  oneOf,
  text,
  truth,
  whole,
  withoutNulls,
  type DocumentProblem,
  type Read,
} from "./shape";

export type ParameterKind = "whole" | "number" | "yesNo";

export interface Parameter {
  name: string;
  kind: ParameterKind;
  value: number | boolean;
  min?: number;
  max?: number;
  step?: number;
  about?: string;
}

export interface Definition {
  name: string;
  rule?: string;
  variants?: { label?: string; rule: string }[];
  chosen?: number;
}

export type Order =
  | { type: "market"; at?: "followingOpen" | "sameClose" }
  | { type: "stop"; price?: string; workingBars?: number }
  | { type: "limit"; price?: string; workingBars?: number; through?: boolean };

export interface Side {
  enter?: { when: string; order?: Order };
  exit?: { when: string; at?: "followingOpen" | "sameClose" };
}

export type DistanceUnit = "points" | "ticks" | "percent" | "atr" | "r" | "price";

/** A number, or the name of a parameter that stands for one. */
export type Figure = number | string;

export interface Distance {
  unit: DistanceUnit;
  value: Figure;
  period?: Figure;
  follow?: boolean;
}

export interface Protect {
  stop?: Distance;
  target?: Distance;
  trail?: { unit: DistanceUnit; value: Figure; period?: Figure; activateAfter?: Figure };
  breakeven?: { unit: DistanceUnit; trigger: Figure; period?: Figure; offset?: Figure };
  maxBarsHeld?: Figure;
  exitAt?: string;
  exitWeekday?: { weekday: number; time: string };
}

export type SizingMode = "units" | "cash" | "equityPercent" | "riskPercent" | "atrPercent" | "equalShare";

export interface Sizing {
  mode: SizingMode;
  value?: Figure;
  period?: Figure;
  base?: "equity" | "initial";
}

/** `canyon.strategy/1` as it stands in a file, without keys that are null. */
export interface Strategy {
  format: "canyon.strategy/1";
  name?: string;
  notes?: string;
  timeframe: string;
  parameters?: Parameter[];
  definitions?: Definition[];
  long?: Side;
  short?: Side;
  protect?: Protect;
  sizing: Sizing;
  onOpposite?: "reverse" | "close" | "ignore";
  entriesAtOnce?: number;
  priority?: string;
}

const parameter = exact(
  {
    name: text().required(),
    kind: oneOf(["whole", "number", "yesNo"] as const).required(),
    value: numberOrTruth().required(),
    min: number(),
    max: number(),
    step: number().moreThan(0, "must be above 0"),
    about: text(),
  },
  "a parameter",
);

const definition = exact(
  {
    name: text().required(),
    rule: text(),
    variants: list(exact({ label: text(), rule: text().required() }, "a variant")),
    chosen: whole().min(1, "must be at least 1"),
  },
  "a definition",
);

const order = exact(
  {
    type: oneOf(["market", "stop", "limit"] as const).required(),
    at: oneOf(["followingOpen", "sameClose"] as const),
    price: text(),
    workingBars: whole().min(1, "must be at least 1"),
    through: truth(),
  },
  "an order",
);

const side = exact(
  {
    enter: exact({ when: text().required(), order: order.default(undefined) }, "an entry").default(undefined),
    exit: exact({ when: text().required(), at: oneOf(["followingOpen", "sameClose"] as const) }, "an exit").default(undefined),
  },
  "a side",
);

const UNITS = ["points", "ticks", "percent", "atr", "r", "price"] as const;
const distance = exact({ unit: oneOf(UNITS).required(), value: figure().required(), period: figure(), follow: truth() }, "a distance");

const protect = exact(
  {
    stop: distance.default(undefined),
    target: distance.default(undefined),
    trail: exact(
      { unit: oneOf(UNITS).required(), value: figure().required(), period: figure(), activateAfter: figure() },
      "a trailing stop",
    ).default(undefined),
    breakeven: exact(
      { unit: oneOf(UNITS).required(), trigger: figure().required(), period: figure(), offset: figure() },
      "a break-even stop",
    ).default(undefined),
    maxBarsHeld: figure(),
    exitAt: text(),
    exitWeekday: exact({ weekday: whole().required(), time: text().required() }, "a weekday exit").default(undefined),
  },
  "protect",
);

export const strategySchema = exact(
  {
    format: formatKey("canyon.strategy/1"),
    name: text(),
    notes: text(),
    timeframe: text().required(),
    parameters: list(parameter),
    definitions: list(definition),
    long: side.default(undefined),
    short: side.default(undefined),
    protect: protect.default(undefined),
    sizing: exact(
      {
        mode: oneOf(["units", "cash", "equityPercent", "riskPercent", "atrPercent", "equalShare"] as const).required(),
        value: figure(),
        period: figure(),
        base: oneOf(["equity", "initial"] as const),
      },
      "sizing",
    ).required(),
    onOpposite: oneOf(["reverse", "close", "ignore"] as const),
    entriesAtOnce: whole().min(1, "must be at least 1"),
    priority: text(),
  },
  "a strategy",
);

/** Reads a strategy's shape: keys, types, formats. What its formulas mean is checked when it is compiled. */
export function readStrategy(given: unknown): Read<Strategy> {
  const problems: DocumentProblem[] = checkShape(strategySchema, given);
  return problems.length > 0 ? { value: null, problems } : { value: withoutNulls(given) as Strategy, problems: [] };
}
