import type { Costs } from "#core/documents";
import type { Leg } from "./leg";

/** Adds up what a run's fills and nights cost, by kind. */
export class Tally {
  commissions = 0;
  spreadCost = 0;
  slippageCost = 0;
  financing = 0;
  turnover = 0;

  constructor(private readonly costs: Costs) {}

  /** One fill at a recorded price; gives its commission: the larger of the minimum and order, units and percent together. */
  fill(leg: Leg, units: number, price: number, slipped: boolean): number {
    const { costs } = this;
    const notional = Math.abs(price) * units * leg.pointValue;
    const commission = Math.max(costs.minimum, costs.perOrder + costs.perUnit * units + (costs.percent / 100) * notional);
    this.commissions += commission;
    this.spreadCost += leg.halfSpread * units * leg.pointValue;
    if (slipped) this.slippageCost += leg.slip * units * leg.pointValue;
    this.turnover += notional;
    return commission;
  }
}
