import { positionColumns, type Simulation } from "#core/engine";
import { conditionColumns, explain, formulaText, type ColumnStore, type Conditions, type Explained, type Formula } from "#core/rules";

export const RULE_NAMES = ["enter long", "exit long", "enter short", "exit short"] as const;
export type RuleName = (typeof RULE_NAMES)[number];

/** Where a rule's conditions held in one market of a finished run, and where one alone was missing. */
export interface RuleConditions extends Conditions {
  rule: RuleName;
  text: string;
}

/** A finished run in one market, ready to be asked why. */
export class Why {
  private readonly store: ColumnStore;
  private readonly rules: { rule: RuleName; formula: Formula }[];

  constructor(
    private readonly simulation: Simulation,
    private readonly legIndex: number,
  ) {
    const { member, market } = simulation.legs[legIndex];
    const { long, short } = member.compiled;
    const formulas = [long?.enter, long?.exit, short?.enter, short?.exit];
    this.rules = RULE_NAMES.flatMap((rule, i) => (formulas[i] ? [{ rule, formula: formulas[i] }] : []));
    this.store = member.compiled.live ? market.store.withPosition(positionColumns(simulation, legIndex)) : market.store;
  }

  private get values() {
    return this.simulation.legs[this.legIndex].member.compiled.values;
  }

  /** Every rule's conditions over all bars; near misses within the run's dates. */
  conditions(): RuleConditions[] {
    const { clock } = this.simulation.run;
    const { time } = this.store.bars;
    let from = 0;
    let to = time.length;
    while (from < to && time[from] < clock.times[0]) from++;
    while (to > from && time[to - 1] > clock.times[clock.times.length - 1]) to--;
    return this.rules.map(({ rule, formula }) => ({
      rule,
      text: formulaText(formula),
      ...conditionColumns(formula, this.store, this.values, from, to),
    }));
  }

  /** Every rule as a tree of its parts with their values at a bar's close. */
  at(row: number): { rule: RuleName; tree: Explained }[] {
    return this.rules.map(({ rule, formula }) => ({ rule, tree: explain(formula, this.store, this.values, row) }));
  }

  /** A formula's value at a bar's close. */
  value(formula: Formula, row: number): number {
    return this.store.column(formula, this.values)[row];
  }
}
