import { parseDate } from "#core/bars";
import {
  type Figure,
  checkShape,
  exact,
  formatKey,
  list,
  number,
  oneOf,
  text,
  whole,
  withoutNulls,
  type DocumentProblem,
  type Read,
  type Settings,
  type Strategy,
} from "#core/documents";
import { compileStrategy, figureValue, type Compiled, type CompiledDistance, type CompiledLevel } from "#core/engine";
import { METRIC_KEYS, METRICS, TRADE_METRICS, type FigureSet } from "#core/metrics";
import { checkRule, constantValue, countFault, settingFault, type Formula, type ParameterValues } from "#core/rules";
import * as yup from "yup";
import { axesOf, combinations, valuesOf, type Axis } from "./values";

export interface Vary {
  name: string;
  from?: number;
  to?: number;
  step?: number;
  values?: (number | boolean)[];
}

export interface Objective {
  metric: string;
  want: "more" | "less";
  weight: number;
}

export interface Limit {
  metric: string;
  least?: number;
  most?: number;
}

/** The part of `canyon.optimization/1` that says what is searched, apart from strategy and settings. */
export interface Search {
  vary: Vary[];
  where?: string;
  objective: Objective[];
  limits: Limit[];
  /** the figures that every trial keeps; all where left out */
  figures?: FigureSet;
}

export interface Optimization extends Search {
  format: "canyon.optimization/1";
  strategy: unknown;
  settings: unknown;
  from?: string;
  to?: string;
}

/** What is wrong with the figures that trials are to keep: the objective and the limits need theirs. */
export function figuresFault({ figures, objective, limits }: Pick<Search, "figures" | "objective" | "limits">): DocumentProblem | null {
  const lacking = figures === "trades" ? [...objective, ...limits].find(({ metric }) => !TRADE_METRICS.has(metric)) : undefined;
  if (lacking === undefined) return null;
  const name = METRICS[lacking.metric].label.toLowerCase();
  return { path: "figures", message: `${name} rests on the equity at every close, not on trades alone; keep all figures` };
}

/** Beyond this many combinations an optimization is refused with its count. */
export const MAX_TRIALS = 1_000_000;

const metric = () =>
  text()
    .required()
    .test("metric", "must be a metric's key, such as profitFactor", (x) => x === undefined || METRIC_KEYS.includes(x));
const date = () => text().test("date", "must be a date, YYYY-MM-DD", (x) => x === undefined || x === null || parseDate(x) !== null);
const document = () =>
  yup
    .mixed<object | string>()
    .test("document", "must be a document or a path", (x) => x === undefined || typeof x === "object" || typeof x === "string");

export const optimizationSchema = exact(
  {
    format: formatKey("canyon.optimization/1"),
    strategy: document().required(),
    settings: document().required(),
    vary: list(
      exact(
        {
          name: text().required(),
          from: number(),
          to: number(),
          step: number(),
          values: list(
            yup
              .mixed<number | boolean>()
              .test("value", "must be a number, or true or false", (x) => typeof x === "boolean" || Number.isFinite(x)),
          ),
        },
        "a varied name",
      ),
    )
      .required()
      .min(1, "must name at least one parameter"),
    where: text(),
    method: exact(
      {
        kind: oneOf(["grid", "random", "sobol", "evolution", "refine"] as const).required(),
        trials: whole(),
        seed: whole(),
        population: whole(),
        generations: whole(),
        elite: whole(),
        mutation: number(),
        islands: whole(),
        patience: whole(),
        coarse: whole(),
      },
      "a method",
    ).default(undefined),
    objective: list(
      exact({ metric: metric(), want: oneOf(["more", "less"] as const), weight: number().moreThan(0, "must be above 0") }, "an objective"),
    )
      .required()
      .min(1, "must name at least one metric"),
    limits: list(exact({ metric: metric(), least: number(), most: number() }, "a limit")),
    mark: number(),
    from: date(),
    to: date(),
  },
  "an optimization",
);

/** Reads an optimization's shape and refuses what this version does not compute. */
export function readOptimization(given: unknown): Read<Optimization> {
  const problems = checkShape(optimizationSchema, given);
  if (problems.length > 0) return { value: null, problems };
  const raw = withoutNulls(given) as Omit<Optimization, "limits" | "objective"> & {
    limits?: Limit[];
    method?: { kind: string };
    mark?: number;
    objective: Partial<Objective>[];
  };
  const later: DocumentProblem[] = [];
  const refuse = (path: string, what: string) => later.push({ path, message: `${what} isn't available in this version of Canyon yet` });
  if (raw.method !== undefined && raw.method.kind !== "grid") refuse("method.kind", `“${raw.method.kind}”`);
  if (raw.objective.length > 1) refuse("objective[1]", "a second objective");
  if (raw.mark !== undefined) refuse("mark", "a mark for the plateau");
  if (later.length > 0) return { value: null, problems: later };
  const objective = raw.objective.map((o) => ({ metric: o.metric!, want: o.want ?? "more", weight: o.weight ?? 1 }) as Objective);
  const { format, strategy, settings, vary, where, from, to } = raw;
  return { value: { format, strategy, settings, vary, where, objective, limits: raw.limits ?? [], from, to }, problems: [] };
}

/** A search that is ready to be cut into chunks: trial k is `order[k]`, a combination in grid order. */
export interface Grid {
  axes: Axis[];
  total: number;
  /** combinations for which `where` is yes; null where all are */
  order: Int32Array | null;
  compiled: Compiled;
}

export type GridResult = { value: Grid; problems: [] } | { value: null; problems: DocumentProblem[] };

/** Lays the grid of a search over a strategy and checks every combination before anything runs. */
export function layGrid(strategy: Strategy, search: Search): GridResult {
  const compiled = compileStrategy(strategy);
  if (compiled.value === null) return { value: null, problems: compiled.problems.map((p) => ({ ...p, path: `strategy.${p.path}` })) };
  const { axes, problems } = axesOf(search.vary, compiled.value);
  if (problems.length > 0) return { value: null, problems };
  const count = combinations(axes);
  if (count > MAX_TRIALS)
    return {
      value: null,
      problems: [
        {
          path: "vary",
          message: `this makes ${count.toLocaleString("en")} trials; at most ${MAX_TRIALS.toLocaleString("en")} are possible. Use larger steps or fewer parameters`,
        },
      ],
    };
  let where: Formula | null = null;
  if (search.where !== undefined && search.where.trim() !== "") {
    const checked = whereFormula(search.where, compiled.value);
    if (checked.problems.length > 0) return { value: null, problems: checked.problems };
    where = checked.formula;
  }
  const order: number[] = [];
  const faults = faultFinder(compiled.value);
  for (let k = 0; k < count; k++) {
    const values = { ...compiled.value.values, ...valuesOf(axes, k) };
    if (where !== null && constantValue(where, values) !== 1) continue;
    const fault = faults(values);
    if (fault !== null) {
      const named = Object.entries(valuesOf(axes, k)).map(([name, x]) => `${name} = ${x}`);
      return { value: null, problems: [{ path: "vary", message: `with ${named.join(", ")}: ${fault}` }] };
    }
    order.push(k);
  }
  if (order.length === 0)
    return {
      value: null,
      problems: [{ path: "where", message: `no combination is left: “${search.where}” is no for all ${count.toLocaleString("en")}` }],
    };
  return {
    value: { axes, total: order.length, order: order.length === count ? null : Int32Array.from(order), compiled: compiled.value },
    problems: [],
  };
}

/** The condition between parameters: its names are parameters and definitions with variants, which stand for the variant's number. */
function whereFormula(rule: string, compiled: Compiled): { formula: Formula | null; problems: DocumentProblem[] } {
  const parameters = new Map(
    [...compiled.variable].map(([name, { kind }]) => [name, { kind: kind === "variant" ? ("whole" as const) : kind }]),
  );
  const checked = checkRule(rule, { parameters, definitions: new Map(), values: compiled.values }, "yesno");
  if (checked.formula === null) return { formula: null, problems: checked.problems.map((p) => ({ path: "where", message: p.message })) };
  if (!checked.formula.constant)
    return { formula: null, problems: [{ path: "where", message: "the condition may speak of parameters only, not of bars" }] };
  return { formula: checked.formula, problems: [] };
}

/** A function that tells what is wrong with a strategy under given values, or null. Only what depends on parameters is looked at. */
function faultFinder(compiled: Compiled): (values: ParameterValues) => string | null {
  const checks: ((values: ParameterValues) => string | null)[] = [];
  const seen = new Set<Formula>();
  const walk = (formula: Formula | null | undefined, path: readonly ParameterCondition[] = []): void => {
    if (!formula || (formula.fixedKey !== null && formula.op !== "variants") || seen.has(formula)) return;
    seen.add(formula);
    const applies = (values: ParameterValues) => path.every(([name, variant]) => values[name] === variant);
    if (formula.op === "call") {
      formula.inputs.forEach((f) => walk(f, path));
      formula.settings.forEach((setting, i) => {
        if (setting.fixedKey === null)
          checks.push((v) =>
            applies(v) ? prefixed(formula.entry.name, settingFault(constantValue(setting, v), formula.entry.settings[i])) : null,
          );
      });
      return;
    }
    if (formula.op === "variants") return formula.variants.forEach((f, k) => walk(f, [...path, [formula.name, k + 1]]));
    if (formula.op === "throughout" || formula.op === "somewhere" || formula.op === "back") {
      const least = formula.op === "back" ? 0 : 1;
      checks.push((v) => (applies(v) ? countFault(constantValue(formula.count, v), least) : null));
    }
    for (const key of ["x", "y", "low", "high", "condition"] as const)
      if (key in formula) walk((formula as unknown as Record<string, Formula>)[key], path);
  };
  const { protect } = compiled;
  for (const side of [compiled.long, compiled.short]) {
    [side?.enter, side?.exit].forEach((f) => walk(f));
    if (side !== null && side.order.type !== "market") walk(side.order.price);
  }
  for (const level of [protect.stop, protect.target]) if (level?.unit === "price") walk(level.level);
  walk(compiled.priority);
  const figure = (what: string, given: Figure | null | undefined, fault: (x: number) => string | null) => {
    if (typeof given === "string") checks.push((v) => prefixed(what, fault(figureValue(given, v))));
  };
  const above0 = (x: number) => (x > 0 ? null : `it must be above 0; here it is ${x}`);
  const notBelow0 = (x: number) => (x >= 0 ? null : `it must not be negative; here it is ${x}`);
  const period = (x: number) => settingFault(x, { name: "the period", whole: true, least: 1 });
  const distance = (what: string, given: CompiledDistance | CompiledLevel | null) => {
    if (given === null || given.unit === "price") return;
    figure(what, given.value, above0);
    figure(what, given.period, period);
  };
  distance("the stop", protect.stop);
  distance("the target", protect.target);
  distance("the trailing stop", protect.trail);
  figure("the trailing stop's activateAfter", protect.trail?.activateAfter, notBelow0);
  figure("the break-even's trigger", protect.breakeven?.trigger, notBelow0);
  figure("the break-even", protect.breakeven?.period, period);
  figure("the size", compiled.strategy.sizing.value, above0);
  figure("the size", compiled.strategy.sizing.period, period);
  const least = [compiled.long, compiled.short].some((side) => side?.order.type === "market" && side.order.atClose) ? 1 : 0;
  figure("maxBarsHeld", protect.maxBarsHeld, (x) => settingFault(x, { name: "it", whole: true, least }));
  return (values) => {
    for (const check of checks) {
      const fault = check(values);
      if (fault !== null) return fault;
    }
    return null;
  };
}

type ParameterCondition = readonly [name: string, variant: number];
const prefixed = (what: string, fault: string | null): string | null => (fault === null ? null : `${what}: ${fault}`);

/** Settings with the optimization's own dates. */
export const searchSettings = (settings: Settings, from: string | null | undefined, to: string | null | undefined): Settings => ({
  ...settings,
  from: from ?? settings.from,
  to: to ?? settings.to,
});
