import type { Side, Strategy } from "#core/documents";

/** When a member may be in the market: while a condition says yes, or while it says no. */
export interface Condition {
  rule: string;
  while: "yes" | "no";
}

/** The condition as a rule of its own. */
export const conditionRule = ({ rule, while: when }: Condition): string => (when === "yes" ? rule : `not (${rule})`);

/**
 * A strategy that a condition switches on and off: it enters only while the condition holds, and leaves as soon as it does
 * not. A comparison with something missing says no, as everywhere in the notation.
 */
export function switched(strategy: Strategy, condition: Condition): Strategy {
  const on = conditionRule(condition);
  const off = conditionRule({ ...condition, while: condition.while === "yes" ? "no" : "yes" });
  const side = (given: Side | undefined): Side | undefined =>
    given?.enter === undefined
      ? given
      : {
          enter: { ...given.enter, when: `(${given.enter.when}) and (${on})` },
          exit: { ...given.exit, when: given.exit === undefined ? off : `(${given.exit.when}) or (${off})` },
        };
  const { long, short, ...rest } = strategy;
  return { ...rest, ...(long ? { long: side(long) } : {}), ...(short ? { short: side(short) } : {}) };
}

/** A market that is held while a condition says yes (or no), on all of the account when its member has half of the weight. */
export interface HeldWhile {
  name: string;
  market: string;
  strategy: Strategy;
}

/**
 * Switching: one market is held while a condition says yes, another, or cash, while it says no. Two members with opposite
 * conditions; each has half of the weights and holds twice its part, so that all of the account is in one or the other.
 */
export function switching(rule: string, yes: string, no: string | null, timeframe: string): HeldWhile[] {
  const held = (market: string, when: Condition["while"]): HeldWhile => ({
    name: `${market} while ${when}`,
    market,
    strategy: {
      format: "canyon.strategy/1",
      name: `${market} while ${when}`,
      notes: `Holds ${market} while the condition says ${when}, and nothing else. One half of a switch between ${yes} and ${no ?? "cash"}.`,
      timeframe,
      long: {
        enter: { when: conditionRule({ rule, while: when }) },
        exit: { when: conditionRule({ rule, while: when === "yes" ? "no" : "yes" }) },
      },
      sizing: { mode: "equityPercent", value: no === null ? 100 : 200 },
    },
  });
  return no === null ? [held(yes, "yes")] : [held(yes, "yes"), held(no, "no")];
}
