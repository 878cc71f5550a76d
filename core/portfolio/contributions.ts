import type { Simulation } from "#core/engine";
import { mean, periodsPerYear, sampleDeviation } from "#core/metrics";
import { fallPlaces, fallsOf, type Fall } from "#core/reading";
import { addedReturns, periodChanges } from "./series";

/** A fall of the account and what each member's profit did from its peak to its lowest point, money; together −fall. */
export interface FallByMember {
  fall: Fall;
  members: number[];
}

export interface Contributions {
  /** net profit of each member, money; together the account's */
  profit: number[];
  /**
   * Part of each member in the account's volatility, percent a year: covariance with the account ÷ its deviation (Litterman
   * 1996); together the account's. Null where the account was lost or does not vary.
   */
  volatility: number[] | null;
  /** the deepest falls, deepest first */
  falls: FallByMember[];
}

/** What each member added to profit, to volatility and to the deepest falls. */
export function contributionsOf(simulation: Simulation, mostFalls = 5): Contributions {
  const { run, equity, memberProfit } = simulation;
  const { times } = run.clock;
  const last = equity.length - 1;
  const falls = fallsOf(times, equity, run.account.capital)
    .sort((a, b) => b.percent - a.percent)
    .slice(0, mostFalls);
  return {
    profit: memberProfit!.map((profit) => profit[last]),
    volatility: volatilityParts(simulation),
    falls: falls.map((fall) => {
      const [peak, low] = fallPlaces(fall, times, equity);
      return { fall, members: memberProfit!.map((profit) => profit[low] - (peak < 0 ? 0 : profit[peak])) };
    }),
  };
}

function volatilityParts(simulation: Simulation): number[] | null {
  const changes = periodChanges(simulation, "day");
  const added = addedReturns(changes);
  if (added === null || changes.total.length < 2) return null;
  const whole = Float64Array.from(changes.total, (_, k) => added.reduce((sum, returns) => sum + returns[k], 0));
  const deviation = sampleDeviation(whole);
  if (!(deviation > 0)) return null;
  const year = 100 * Math.sqrt(periodsPerYear(simulation.run));
  return added.map((returns) => (year * covarianceOf(returns, whole)) / deviation);
}

function covarianceOf(x: Float64Array, y: Float64Array): number {
  const [a, b] = [mean(x), mean(y)];
  let sum = 0;
  for (let k = 0; k < x.length; k++) sum += (x[k] - a) * (y[k] - b);
  return sum / (x.length - 1);
}
