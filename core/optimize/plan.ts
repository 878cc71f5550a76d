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
import { figureValue, type Compiled, type CompiledDistance, type CompiledLevel } from "#core/engine";
import { METRIC_KEYS, METRICS, TRADE_METRICS, type FigureSet } from "#core/metrics";
import { checkRule, constantValue, countFault, settingFault, type Formula, type ParameterValues } from "#core/rules";
import * as yup from "yup";
import type { Method } from "./methods/method";
import { pooledMetrics, type Pooling } from "./pooling";
import { laySpace, trialsIn } from "./space";
import type { Axis } from "./values";

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
  /** how combinations are chosen; the whole grid where left out */
  method?: Method;
  /** the fit from which on a trial may belong to the plateau; by the fits themselves where left out */
  mark?: number;
  /** the figures that every trial keeps; all where left out */
  figures?: FigureSet;
  /** whether the markets are one account (where left out) or each by itself, and what is made of their figures */
  pooling?: Pooling;
  /** trades with the largest net that every trial's figures leave out; none where left out */
  withoutBest?: number;
}

export interface Optimization extends Search {
  format: "canyon.optimization/1";
  strategy: unknown;
  settings: unknown;
  from?: string;
  to?: string;
}

/** Figures that the trials of a search have. */
export function keptFigures({
  figures,
  pooling = "together",
  withoutBest = 0,
}: Pick<Search, "figures" | "pooling" | "withoutBest">): ReadonlySet<string> {
  const pooled = pooledMetrics(pooling);
  return figures === "trades" || withoutBest > 0 ? new Set([...pooled].filter((key) => TRADE_METRICS.has(key))) : pooled;
}

/** What is wrong with the figures that trials are to keep: the objective and the limits need theirs. */
export function figuresFault(search: Pick<Search, "figures" | "objective" | "limits" | "pooling" | "withoutBest">): DocumentProblem | null {
  const kept = keptFigures(search);
  const lacking = [...search.objective, ...search.limits].find(({ metric }) => !kept.has(metric));
  if (lacking === undefined) return null;
  const name = METRICS[lacking.metric].label.toLowerCase();
  if (TRADE_METRICS.has(lacking.metric))
    return { path: "pooling", message: `${name} of several markets does not add up; take the median or the worst` };
  if ((search.withoutBest ?? 0) > 0)
    return { path: "withoutBest", message: `${name} rests on the equity at every close, which has no best trades to leave out` };
  if (search.figures === "trades")
    return { path: "figures", message: `${name} rests on the equity at every close, not on trades alone; keep all figures` };
  return { path: "pooling", message: `${name} of several markets does not add up; take the median or the worst` };
}

/** Beyond this many combinations an optimization is refused with its count. */
export const MAX_TRIALS = 10_000_000;

const metric = () =>
  text()
    .required()
    .test("metric", "must be a metric's key, such as profitFactor", (x) => x === undefined || METRIC_KEYS.includes(x));
const date = () => text().test("date", "must be a date, YYYY-MM-DD", (x) => x === undefined || x === null || parseDate(x) !== null);
const document = () =>
  yup
    .mixed<object | string>()
    .test("document", "must be a document or a path", (x) => x === undefined || typeof x === "object" || typeof x === "string");

/** The keys that say what is searched, over what; for every document that holds a search. */
export const searchKeys = () => ({
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
});

/** The shape of a search alone, as a part of other documents. */
export function searchSchema(): yup.Schema {
  const { strategy: _strategy, settings: _settings, from: _from, to: _to, ...keys } = searchKeys();
  // what is left out is no search; an empty one would be filled in otherwise
  return exact(keys, "a search").default(undefined).required("is needed: what is varied") as unknown as yup.Schema;
}

/** Reads a search that stands in another document. */
export function readSearch(given: unknown): Read<Search> {
  const problems = checkShape(searchSchema(), given);
  if (problems.length > 0) return { value: null, problems };
  const search = searchOf(withoutNulls(given) as Written, problems);
  return problems.length > 0 ? { value: null, problems } : { value: search, problems: [] };
}

export const optimizationSchema = exact({ format: formatKey("canyon.optimization/1"), ...searchKeys() }, "an optimization");

/** What a document says of a search, as it is written: numbers that a method needs may be missing. */
export type Written = Omit<Optimization, "limits" | "objective" | "method"> & {
  limits?: Limit[];
  method?: Partial<Record<string, number>> & { kind: Method["kind"] };
  objective: Partial<Objective>[];
};

/** A method with its defaults; what is wrong with its numbers goes to `problems`. */
function methodOf(given: Written["method"], problems: DocumentProblem[]): Method {
  const { kind = "grid" } = given ?? {};
  const take = (key: string, missing: number | null, least: number, most = Infinity): number => {
    const value = given?.[key] ?? missing;
    if (value === null) problems.push({ path: `method.${key}`, message: `“${kind}” needs ${key}` });
    else if (value < least || value > most)
      problems.push({ path: `method.${key}`, message: `must be ${most === Infinity ? `at least ${least}` : `from ${least} to ${most}`}` });
    return value ?? NaN;
  };
  switch (kind) {
    case "grid":
      return { kind };
    case "random":
      return { kind, trials: take("trials", null, 1), seed: take("seed", 1, -Infinity) };
    case "sobol":
      return { kind, trials: take("trials", null, 1) };
    case "refine":
      return { kind, coarse: take("coarse", null, 2) };
    case "evolution": {
      const population = take("population", 60, 2);
      const islands = take("islands", 1, 1);
      if (islands * 2 > population) problems.push({ path: "method.islands", message: "every island needs two of the population" });
      return {
        kind,
        population,
        generations: take("generations", 30, 1),
        elite: take("elite", 2, 0, Math.max(0, Math.floor(population / islands) - 1)),
        mutation: take("mutation", 0.15, 0, 1),
        islands,
        seed: take("seed", 1, -Infinity),
        patience: take("patience", 8, 1),
      };
    }
  }
}

/** A document's search with defaults filled in; problems with a method's numbers go to `problems`. */
export function searchOf(raw: Written, problems: DocumentProblem[]): Search {
  const objective = raw.objective.map((o) => ({ metric: o.metric!, want: o.want ?? "more", weight: o.weight ?? 1 }) as Objective);
  const { vary, where, mark } = raw;
  return { vary, where, objective, limits: raw.limits ?? [], method: methodOf(raw.method, problems), mark };
}

/** Reads an optimization. */
export function readOptimization(given: unknown): Read<Optimization> {
  const problems = checkShape(optimizationSchema, given);
  if (problems.length > 0) return { value: null, problems };
  const raw = withoutNulls(given) as Written;
  const search = searchOf(raw, problems);
  if (problems.length > 0) return { value: null, problems };
  const { format, strategy, settings, from, to } = raw;
  return { value: { format, strategy, settings, from, to, ...search }, problems: [] };
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
  const { value, problems } = laySpace(strategy, search);
  if (value === null) return { value: null, problems };
  const { axes, allowed, compiled } = value;
  return { value: { axes, total: trialsIn(value), order: allowed, compiled }, problems: [] };
}

/** The condition between parameters: its names are parameters and definitions with variants, which stand for the variant's number. */
export function whereFormula(rule: string, compiled: Compiled): { formula: Formula | null; problems: DocumentProblem[] } {
  const parameters = new Map(
    [...compiled.variable].map(([name, { kind }]) => [name, { kind: kind === "variant" ? ("whole" as const) : kind }]),
  );
  const checked = checkRule(rule, { parameters, definitions: new Map(), values: compiled.values }, "yesno");
  if (checked.formula === null) return { formula: null, problems: checked.problems.map((p) => ({ path: "where", message: p.message })) };
  if (!checked.formula.constant)
    return { formula: null, problems: [{ path: "where", message: "the condition may speak of parameters only, not of bars" }] };
  return { formula: checked.formula, problems: [] };
}

/** A function that tells what is wrong with a strategy under given values, or null. Only what depends on parameters is looked at; null where nothing does. */
export function faultFinder(compiled: Compiled): ((values: ParameterValues) => string | null) | null {
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
  if (checks.length === 0) return null;
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
