import { parseTimeframe, resample, resampleFault, valuesAt, type Bars, type DatedSeries } from "#core/bars";
import { countFault, settingFault } from "./check";
import type { ColumnMemory } from "./column-memory";
import { constantValue, type Formula, type ParameterValues, type PositionName } from "./formula";
import { SERIES } from "./registry";
import { BARE, type SeriesContext } from "./session-series";
import type { ArithmeticOperator, CompareOperator } from "./syntax";

/** A formula's values: numbers with NaN for missing, or yes/no as 1 and 0; one value a bar. */
export type Column = Float64Array | Uint8Array;

/** The text that identifies a formula under given parameter values; equal keys give equal columns on the same bars. */
export function formulaKey(formula: Formula, values: ParameterValues): string {
  if (formula.fixedKey !== null) return formula.fixedKey;
  const of = (f: Formula) => formulaKey(f, values);
  if (formula.op === "variants") return of(formula.variants[values[formula.name] - 1]);
  if (formula.constant) return String(constantValue(formula, values));
  switch (formula.op) {
    case "call":
      return `(${formula.entry.name}${formula.part === null ? "" : `.${formula.part}`} ${[...formula.inputs, ...formula.settings].map(of).join(" ")})`;
    case "on":
      return `(on ${formula.timeframe} ${of(formula.x)})`;
    case "of":
      return `(of ${formula.symbol} ${of(formula.x)})`;
    case "minus":
      return `(- ${of(formula.x)})`;
    case "not":
      return `(not ${of(formula.x)})`;
    case "arithmetic":
    case "compare":
      return `(${formula.operator} ${of(formula.x)} ${of(formula.y)})`;
    case "fromTo":
      return `(from ${of(formula.x)} ${of(formula.low)} ${of(formula.high)})`;
    case "crosses":
      return `(crosses ${formula.direction} ${of(formula.x)} ${of(formula.y)})`;
    case "moves":
      return `(${formula.motion} ${of(formula.x)})`;
    case "throughout":
    case "somewhere":
    case "back":
      return `(${formula.op} ${of(formula.x)} ${of(formula.count)})`;
    case "and":
    case "or":
      return `(${formula.op} ${of(formula.x)} ${of(formula.y)})`;
    case "if":
      return `(if ${of(formula.condition)} ${of(formula.x)} ${of(formula.y)})`;
    default:
      throw new Error(`${formula.op} has a key of its own`);
  }
}

/** A setting that has no sense under the parameter values at hand; its message is a sentence for a trader. */
export class SettingError extends Error {}

/**
 * The columns of formulas on one set of bars. Each distinct formula is computed once and kept, so that many trials share
 * what they have in common; the columns that were not asked for longest are dropped beyond `capacityBytes`.
 */
export class ColumnStore {
  private readonly columns = new Map<string, Column>();
  private bytes = 0;
  private ownEnds: Float64Array | null = null;
  private others: (symbol: string) => ColumnStore | null = () => null;
  private readonly coarse = new Map<string, ColumnStore>();
  private last: { x: Float64Array; y: Float64Array; crossings: Crossings } | null = null;
  private memory: ColumnMemory | null = null;
  /** hears of every column that is computed here */
  onNew: ((key: string, column: Column) => void) | null = null;
  private readonly borrowed = new Set<Column>();

  constructor(
    readonly bars: Bars,
    private readonly capacityBytes = 256 * 1024 * 1024,
    /** the market's extra series by name */
    private readonly series: Readonly<Record<string, DatedSeries>> = {},
    /** calendar and timeframe that the bars belong to */
    readonly context: SeriesContext = BARE,
    /** values of a finished run's position, for formulas that look at it */
    private readonly position: Readonly<Record<PositionName, Column>> | null = null,
  ) {}

  /** The column of a formula. Throws a SettingError where a length comes out wrong under these values. */
  column(formula: Formula, values: ParameterValues): Column {
    if (formula.op === "series")
      return this.kept(formula.fixedKey!, () => SERIES.get(formula.name)!.column(this.bars, this.context), false);
    if (formula.op === "extra")
      return this.kept(formula.fixedKey!, () => {
        const series = this.series[formula.name];
        if (series === undefined) throw new SettingError(`the market has no extra series “${formula.name}”`);
        return valuesAt(series, this.ends());
      });
    if (formula.op === "position") {
      if (this.position === null) throw new SettingError(`${formula.name} is known only while a strategy runs`);
      return this.position[formula.name];
    }
    if (formula.op === "variants") return this.column(formula.variants[values[formula.name] - 1], values);
    const key = formulaKey(formula, values);
    return this.kept(formula.constant ? `${formula.kind} ${key}` : key, () => this.compute(formula, values));
  }

  /** A store of its own on the same bars that knows the position of a finished run, too. */
  withPosition(position: Readonly<Record<PositionName, Column>>): ColumnStore {
    const store = new ColumnStore(this.bars, this.capacityBytes / 4, this.series, this.context, position);
    store.link(this.others);
    return store;
  }

  /** Tells which stores hold the markets that formulas look at with `of`; in the same timeframe as this one. */
  link(others: (symbol: string) => ColumnStore | null): void {
    this.others = others;
  }

  /**
   * From now on columns come from a memory and go back to it: those beyond the capacity with `tidy`, all with `release`.
   * Whoever uses this calls them only while no column is looked at.
   */
  use(memory: ColumnMemory): void {
    this.memory = memory;
  }

  /** Drops the columns beyond the capacity, those first that were not asked for longest. */
  tidy(): void {
    for (const [key, column] of this.columns) {
      if (this.bytes <= this.capacityBytes) break;
      this.drop(key, column);
    }
    for (const store of this.coarse.values()) store.tidy();
  }

  /** Drops all columns. */
  release(): void {
    for (const [key, column] of this.columns) this.drop(key, column);
    for (const store of this.coarse.values()) store.release();
  }

  /** Takes a column that was computed elsewhere on the same bars, unless it is here. */
  accept(key: string, column: Column): void {
    if (!this.columns.has(key)) this.hold(key, column);
  }

  private hold(key: string, column: Column): void {
    this.columns.set(key, column);
    this.bytes += column.byteLength;
  }

  private drop(key: string, column: Column): void {
    this.columns.delete(key);
    this.bytes -= column.byteLength;
    if (this.last !== null && (this.last.x === column || this.last.y === column)) this.last = null;
    if (this.borrowed.delete(column)) this.memory!.give(column as Float64Array);
  }

  /** A column to be filled by a function. */
  readonly make = (length: number): Float64Array => {
    if (this.memory === null) return new Float64Array(length);
    const column = this.memory.take(length);
    this.borrowed.add(column);
    return column;
  };

  /** When each bar ends. */
  private ends(): Float64Array {
    const { calendar, timeframe } = this.context;
    return (this.ownEnds ??= this.bars.time.map((time) => calendar.endOf(time, timeframe)));
  }

  /** The same market in a coarser timeframe. */
  private coarser(name: string): ColumnStore {
    let store = this.coarse.get(name);
    if (store === undefined) {
      const timeframe = parseTimeframe(name)!;
      const fault = resampleFault(this.context.timeframe, timeframe);
      if (fault !== null) throw new SettingError(`bars of ${name} can't be had here: ${fault}`);
      const { bars } = resample(this.bars, this.context.timeframe, timeframe, this.context.calendar);
      store = new ColumnStore(bars, this.capacityBytes / 4, this.series, { ...this.context, timeframe });
      store.link((symbol) => this.others(symbol)?.coarser(name) ?? null);
      if (this.memory !== null) store.use(this.memory);
      this.coarse.set(name, store);
    }
    return store;
  }

  /** A column of another store as it is known at the end of each bar here: that of its last bar that has ended. */
  private seenFrom(store: ColumnStore, formula: Formula, values: ParameterValues): Column {
    const column = store.column(formula, values);
    const [ends, theirs] = [this.ends(), store.ends()];
    const out = column instanceof Float64Array ? new Float64Array(ends.length).fill(NaN) : new Uint8Array(ends.length);
    let at = -1;
    for (let i = 0; i < ends.length; i++) {
      while (at + 1 < theirs.length && theirs[at + 1] <= ends[i]) at++;
      if (at >= 0) out[i] = column[at];
    }
    return out;
  }

  /** A column made outside the notation (a derived signal list, say), kept under the same bound; `told`: whether `onNew` hears of it. */
  kept<T extends Column>(key: string, make: () => T, told = true): T {
    const known = this.columns.get(key);
    if (known !== undefined) {
      if (this.bytes > this.capacityBytes / 2) {
        this.columns.delete(key);
        this.columns.set(key, known);
      }
      return known as T;
    }
    const column = make();
    this.hold(key, column);
    if (told) this.onNew?.(key, column);
    if (this.memory !== null) return column;
    for (const [oldest, dropped] of this.columns) {
      if (this.bytes <= this.capacityBytes || oldest === key) break;
      this.drop(oldest, dropped);
    }
    return column;
  }

  private compute(formula: Formula, values: ParameterValues): Column {
    const length = this.bars.length;
    if (formula.constant) {
      const value = constantValue(formula, values);
      return formula.kind === "number" ? new Float64Array(length).fill(value) : new Uint8Array(length).fill(value);
    }
    const numbers = (f: Formula) => this.column(f, values) as Float64Array;
    const truths = (f: Formula) => this.column(f, values) as Uint8Array;
    switch (formula.op) {
      case "call": {
        const settings = formula.settings.map((f) => constantValue(f, values));
        settings.forEach((x, i) => {
          const fault = settingFault(x, formula.entry.settings[i]);
          if (fault !== null) throw new SettingError(`${formula.entry.name}: ${fault}`);
        });
        const result = formula.entry.compute(formula.inputs.map(numbers), settings, this.bars, this.context, this.make);
        if (result instanceof Float64Array) return result;
        for (const [part, column] of Object.entries(result))
          if (part !== formula.part) this.kept(formulaKey({ ...formula, part, fixedKey: null }, values), () => column);
        return result[formula.part!];
      }
      case "on":
        return this.seenFrom(this.coarser(formula.timeframe), formula.x, values);
      case "of": {
        const other = this.others(formula.symbol);
        if (other === null) throw new SettingError(`there is no market ${formula.symbol} here`);
        return this.seenFrom(other, formula.x, values);
      }
      case "minus":
        return numbers(formula.x).map((x) => -x);
      case "arithmetic":
        return calculated(formula.operator, numbers(formula.x), numbers(formula.y));
      case "compare":
        return compared(formula.operator, numbers(formula.x), numbers(formula.y));
      case "fromTo":
        return between(numbers(formula.x), numbers(formula.low), numbers(formula.high));
      case "crosses": {
        const out = new Uint8Array(length);
        for (const row of this.yesRows(formula, values)) out[row] = 1;
        return out;
      }
      case "moves":
        return moving(numbers(formula.x), formula.motion === "rising" ? 1 : -1);
      case "throughout":
        return streak(truths(formula.x), this.count(formula.count, values, 1), true);
      case "somewhere":
        return streak(truths(formula.x), this.count(formula.count, values, 1), false);
      case "back": {
        const n = Math.min(this.count(formula.count, values, 0), length);
        const x = this.column(formula.x, values);
        const out = x instanceof Float64Array ? new Float64Array(length).fill(NaN) : new Uint8Array(length);
        out.set(x.subarray(0, length - n), n);
        return out;
      }
      case "not":
        return inverted(truths(formula.x));
      case "and":
        return joined(truths(formula.x), truths(formula.y), 2);
      case "or":
        return joined(truths(formula.x), truths(formula.y), 1);
      case "if": {
        const condition = truths(formula.condition);
        const [x, y] = [this.column(formula.x, values), this.column(formula.y, values)];
        const out = formula.kind === "number" ? new Float64Array(length) : new Uint8Array(length);
        for (let i = 0; i < length; i++) out[i] = condition[i] === 1 ? x[i] : y[i];
        return out;
      }
      default:
        throw new Error(`${formula.op} is computed elsewhere`);
    }
  }

  /** Rows on which a yes/no formula says yes, in order; crossings without a column of their own. */
  yesRows(formula: Formula, values: ParameterValues): readonly number[] {
    if (formula.op === "crosses") return this.crossings(formula, values)[formula.direction];
    const column = this.column(formula, values) as Uint8Array;
    const rows: number[] = [];
    for (let i = 0; i < column.length; i++) if (column[i] === 1) rows.push(i);
    return rows;
  }

  /** Both directions are found in one pass, since the other one is most often the exit. */
  private crossings(formula: Formula & { op: "crosses" }, values: ParameterValues): Crossings {
    const x = this.column(formula.x, values) as Float64Array;
    const y = this.column(formula.y, values) as Float64Array;
    const { last } = this;
    if (last?.x === x && last.y === y) return last.crossings;
    const crossings = findCrossings(x, y);
    this.last = { x, y, crossings };
    return crossings;
  }

  private count(formula: Formula, values: ParameterValues, least: number): number {
    const n = constantValue(formula, values);
    const fault = countFault(n, least);
    if (fault !== null) throw new SettingError(fault);
    return n;
  }
}

/** Rows on which one column crosses above another, and below. */
interface Crossings {
  above: number[];
  below: number[];
}

/**
 * Crossings of two columns: x is above y now and, at the last earlier bar where both exist and differ, was below; or
 * mirrored.
 */
function findCrossings(x: Float64Array, y: Float64Array): Crossings {
  const above: number[] = [];
  const below: number[] = [];
  const { length } = x;
  let i = 0;
  while (i < length && !(x[i] > y[i]) && !(x[i] < y[i])) i++;
  let up = x[i] > y[i];
  // one comparison a bar, four bars at a time: on either side only the other one is looked for, and a missing value is neither
  const last = length - 4;
  while (i < length) {
    if (up) {
      while (i <= last && !(x[i] < y[i]) && !(x[i + 1] < y[i + 1]) && !(x[i + 2] < y[i + 2]) && !(x[i + 3] < y[i + 3])) i += 4;
      while (i < length && !(x[i] < y[i])) i++;
    } else {
      while (i <= last && !(x[i] > y[i]) && !(x[i + 1] > y[i + 1]) && !(x[i + 2] > y[i + 2]) && !(x[i + 3] > y[i + 3])) i += 4;
      while (i < length && !(x[i] > y[i])) i++;
    }
    if (i === length) break;
    up = !up;
    (up ? above : below).push(i);
  }
  return { above, below };
}

// One loop an operator: a shared loop that calls a function per bar is several times slower.

function between(x: Float64Array, low: Float64Array, high: Float64Array): Uint8Array {
  const out = new Uint8Array(x.length);
  for (let i = 0; i < x.length; i++) if (x[i] >= low[i] && x[i] <= high[i]) out[i] = 1;
  return out;
}

/** Yes where x moved in the direction of the sign since the bar before. */
function moving(x: Float64Array, sign: 1 | -1): Uint8Array {
  const out = new Uint8Array(x.length);
  for (let i = 1; i < x.length; i++) if (sign * x[i] > sign * x[i - 1]) out[i] = 1;
  return out;
}

function inverted(x: Uint8Array): Uint8Array {
  const out = new Uint8Array(x.length);
  for (let i = 0; i < x.length; i++) out[i] = 1 - x[i];
  return out;
}

/** Yes where at least `need` of two are: 2 is and, 1 is or. */
function joined(x: Uint8Array, y: Uint8Array, need: 1 | 2): Uint8Array {
  const out = new Uint8Array(x.length);
  for (let i = 0; i < x.length; i++) if (x[i] + y[i] >= need) out[i] = 1;
  return out;
}

function calculated(operator: ArithmeticOperator, x: Float64Array, y: Float64Array): Float64Array {
  const out = new Float64Array(x.length);
  switch (operator) {
    case "+":
      for (let i = 0; i < x.length; i++) out[i] = x[i] + y[i];
      break;
    case "-":
      for (let i = 0; i < x.length; i++) out[i] = x[i] - y[i];
      break;
    case "*":
      for (let i = 0; i < x.length; i++) out[i] = x[i] * y[i];
      break;
    case "/":
      for (let i = 0; i < x.length; i++) out[i] = x[i] / y[i];
      break;
    case "%":
      for (let i = 0; i < x.length; i++) out[i] = x[i] % y[i];
      break;
  }
  for (let i = 0; i < out.length; i++) if (out[i] - out[i] !== 0) out[i] = NaN;
  return out;
}

function compared(operator: CompareOperator, x: Float64Array, y: Float64Array): Uint8Array {
  const out = new Uint8Array(x.length);
  switch (operator) {
    case "<":
      for (let i = 0; i < x.length; i++) if (x[i] < y[i]) out[i] = 1;
      break;
    case "<=":
      for (let i = 0; i < x.length; i++) if (x[i] <= y[i]) out[i] = 1;
      break;
    case ">":
      for (let i = 0; i < x.length; i++) if (x[i] > y[i]) out[i] = 1;
      break;
    case ">=":
      for (let i = 0; i < x.length; i++) if (x[i] >= y[i]) out[i] = 1;
      break;
    case "=":
      for (let i = 0; i < x.length; i++) if (x[i] === y[i]) out[i] = 1;
      break;
    case "!=":
      for (let i = 0; i < x.length; i++) if (x[i] < y[i] || x[i] > y[i]) out[i] = 1;
      break;
  }
  return out;
}

/** Yes where the last n bars are all yes (every) or one of them is (else). */
function streak(x: Uint8Array, n: number, every: boolean): Uint8Array {
  const out = new Uint8Array(x.length);
  let run = 0;
  let since = n;
  for (let i = 0; i < x.length; i++) {
    run = x[i] === 1 ? run + 1 : 0;
    since = x[i] === 1 ? 0 : since + 1;
    out[i] = (every ? run >= n : since < n) ? 1 : 0;
  }
  return out;
}
