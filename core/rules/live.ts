import type { Step } from "#core/indicators";
import { countFault, settingFault } from "./check";
import { newColumn } from "./column-memory";
import { SettingError, type Column, type ColumnStore } from "./evaluate";
import { arithmetic, constantValue, restsOnPosition, type Formula, type ParameterValues } from "./formula";
import type { CompareOperator } from "./syntax";

/** What a strategy holds in one market at a close, as its rules see it: NaN where it is missing, yes/no as 1 and 0. */
export interface PositionValues {
  inLong: number;
  inShort: number;
  barsHeld: number;
  entryPrice: number;
  openProfit: number;
  openR: number;
}

export const flat = (): PositionValues => ({ inLong: 0, inShort: 0, barsHeld: NaN, entryPrice: NaN, openProfit: NaN, openR: NaN });

/** A formula's value at a row; what remembers earlier closes must have been advanced to that row. */
export type Reading = (row: number) => number;

/**
 * Formulas that rest on the position, evaluated close by close while a run goes on. What doesn't rest on it is read from
 * shared columns. `advance` is called once for every bar, in order, after the position's values are set.
 */
export class LiveFormulas {
  readonly position: PositionValues = flat();
  private readonly memories: ((row: number) => void)[] = [];
  private at = -1;

  constructor(
    private readonly store: ColumnStore,
    private readonly values: ParameterValues,
  ) {}

  /** Whether any formula looks at earlier closes, so that no bar may be left out. */
  get remembers(): boolean {
    return this.memories.length > 0;
  }

  /** Takes the close of a row into what the formulas remember. */
  advance(row: number): void {
    for (let i = 0; i < this.memories.length; i++) this.memories[i](row);
    this.at = row;
  }

  /** Takes all closes before a row, at which nothing was held yet. */
  advanceFlat(end: number): void {
    if (!this.remembers) return;
    for (let row = this.at + 1; row < end; row++) this.advance(row);
  }

  /** A reading of a formula. Throws a SettingError where a length has no sense. */
  read(formula: Formula): Reading {
    const { values, position } = this;
    if (formula.op === "variants") return this.read(formula.variants[values[formula.name] - 1]);
    if (formula.constant && formula.kind === "number") {
      const value = constantValue(formula, values);
      return () => value;
    }
    if (!restsOnPosition(formula)) {
      const column = this.store.column(formula, values);
      return (row) => column[row];
    }
    switch (formula.op) {
      case "position": {
        const { name } = formula;
        return () => position[name];
      }
      case "minus": {
        const x = this.read(formula.x);
        return (row) => -x(row);
      }
      case "arithmetic": {
        const [x, y, { operator }] = [this.read(formula.x), this.read(formula.y), formula];
        return (row) => {
          const value = arithmetic(operator, x(row), y(row));
          return value - value === 0 ? value : NaN;
        };
      }
      case "compare":
        return comparing(formula.operator, this.read(formula.x), this.read(formula.y));
      case "fromTo": {
        const [x, low, high] = [this.read(formula.x), this.read(formula.low), this.read(formula.high)];
        return (row) => {
          const value = x(row);
          return value >= low(row) && value <= high(row) ? 1 : 0;
        };
      }
      case "not": {
        const x = this.read(formula.x);
        return (row) => 1 - x(row);
      }
      case "and": {
        const [x, y] = [this.read(formula.x), this.read(formula.y)];
        return (row) => (x(row) === 1 && y(row) === 1 ? 1 : 0);
      }
      case "or": {
        const [x, y] = [this.read(formula.x), this.read(formula.y)];
        return (row) => (x(row) === 1 || y(row) === 1 ? 1 : 0);
      }
      case "if": {
        const [condition, x, y] = [this.read(formula.condition), this.read(formula.x), this.read(formula.y)];
        return (row) => (condition(row) === 1 ? x(row) : y(row));
      }
      case "crosses": {
        const [x, y] = [this.read(formula.x), this.read(formula.y)];
        const wanted = formula.direction === "above" ? 1 : -1;
        let side = 0;
        return this.remember((row) => {
          const difference = x(row) - y(row);
          const now = difference > 0 ? 1 : difference < 0 ? -1 : 0;
          const crossed = now === wanted && side === -wanted;
          if (now !== 0) side = now;
          return crossed ? 1 : 0;
        });
      }
      case "moves": {
        const x = this.read(formula.x);
        const sign = formula.motion === "rising" ? 1 : -1;
        let before = NaN;
        return this.remember((row) => {
          const value = x(row);
          const moved = sign * value > sign * before;
          before = value;
          return moved ? 1 : 0;
        });
      }
      case "throughout":
      case "somewhere": {
        const x = this.read(formula.x);
        const n = this.count(formula.count, 1);
        const every = formula.op === "throughout";
        let run = 0;
        let since = n;
        return this.remember((row) => {
          const yes = x(row) === 1;
          run = yes ? run + 1 : 0;
          since = yes ? 0 : since + 1;
          return (every ? run >= n : since < n) ? 1 : 0;
        });
      }
      case "back": {
        const x = this.read(formula.x);
        const n = Math.min(this.count(formula.count, 0), this.store.bars.length);
        const window = new Float64Array(n + 1).fill(formula.kind === "number" ? NaN : 0);
        return this.remember((row) => {
          window[row % (n + 1)] = x(row);
          return window[(row + 1) % (n + 1)];
        });
      }
      case "call":
        return this.call(formula);
      default:
        throw new Error(`${formula.op} can't rest on the position`);
    }
  }

  private call(formula: Formula & { op: "call" }): Reading {
    const { entry, part } = formula;
    const settings = formula.settings.map((setting) => constantValue(setting, this.values));
    settings.forEach((x, i) => {
      const fault = settingFault(x, entry.settings[i]);
      if (fault !== null) throw new SettingError(`${entry.name}: ${fault}`);
    });
    const inputs = formula.inputs.map((input) => this.read(input));
    const { bars } = this.store;
    if (entry.step !== undefined) {
      const step: Step = entry.step(settings, part, bars);
      const [x, y] = inputs;
      return this.remember((row) => step(x(row), y === undefined ? NaN : y(row), row));
    }
    const length = entry.warmup(settings, part) + 1;
    const windows = inputs.map(() => new Window(length));
    const last = (): number => {
      const result = entry.compute(
        windows.map((window) => window.values()) as Float64Array[],
        settings,
        bars,
        this.store.context,
        newColumn,
      );
      const column: Column = result instanceof Float64Array ? result : result[part!];
      return column[column.length - 1];
    };
    if (length === 1)
      return (row) => {
        inputs.forEach((input, i) => windows[i].add(input(row)));
        return last();
      };
    return this.remember((row) => {
      inputs.forEach((input, i) => windows[i].add(input(row)));
      return last();
    });
  }

  /** A value that must be taken at every close: it is kept until the next one. */
  private remember(take: Reading): Reading {
    let value = NaN;
    this.memories.push((row) => {
      value = take(row);
    });
    return () => value;
  }

  private count(formula: Formula, least: number): number {
    const n = constantValue(formula, this.values);
    const fault = countFault(n, least);
    if (fault !== null) throw new SettingError(fault);
    return n;
  }
}

/** A comparison as a reading: one closure an operator, since it is asked at every close. */
function comparing(operator: CompareOperator, x: Reading, y: Reading): Reading {
  switch (operator) {
    case "<":
      return (row) => (x(row) < y(row) ? 1 : 0);
    case "<=":
      return (row) => (x(row) <= y(row) ? 1 : 0);
    case ">":
      return (row) => (x(row) > y(row) ? 1 : 0);
    case ">=":
      return (row) => (x(row) >= y(row) ? 1 : 0);
    case "=":
      return (row) => (x(row) === y(row) ? 1 : 0);
    case "!=":
      return (row) => {
        const [a, b] = [x(row), y(row)];
        return a < b || a > b ? 1 : 0;
      };
  }
}

/** The last few values of a series, always in one piece. */
class Window {
  private readonly held: Float64Array;
  private end = 0;

  constructor(private readonly length: number) {
    this.held = new Float64Array(length * 2);
  }

  add(value: number): void {
    if (this.end === this.held.length) {
      this.held.copyWithin(0, this.end - this.length + 1, this.end);
      this.end = this.length - 1;
    }
    this.held[this.end++] = value;
  }

  values(): Float64Array {
    return this.held.subarray(Math.max(0, this.end - this.length), this.end);
  }
}
