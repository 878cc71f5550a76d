import { simulate, type Leg, type PreparedRun } from "#core/engine";

/** A run's own quantities at every close of its clock. Money in the account's currency, shares of the equity as fractions (NaN where it is ≤ 0). */
export interface Along {
  /** open trades, and markets with a position */
  trades: Float64Array;
  positions: Float64Array;
  /** notional at the close on each side ÷ equity */
  longShare: Float64Array;
  shortShare: Float64Array;
  /** notional of the market with the largest position ÷ equity, and which it is (index into `symbols`; −1: none) */
  largestShare: Float64Array;
  largest: Int32Array;
  /** margin in use ÷ equity */
  marginShare: Float64Array;
  /** costs so far, by kind */
  commissions: Float64Array;
  spread: Float64Array;
  slippage: Float64Array;
  financing: Float64Array;
  symbols: readonly string[];
  /** by market: units held (short below 0), notional with its sign ÷ equity, profit so far after costs; null where they would be too many to hold */
  markets: { units: Float64Array[]; share: Float64Array[]; profit: Float64Array[] } | null;
}

/** As many values are kept of all markets together. */
const MOST_VALUES = 16_000_000;

/** Runs once more and looks on: what was held at each close, and what it had brought and cost by then. */
export function alongOf(run: PreparedRun, mostValues = MOST_VALUES): Along {
  const n = run.clock.times.length;
  const symbols = run.markets.map((market) => market.spec.symbol);
  const column = () => new Float64Array(n);
  const each = () => symbols.map(column);
  const along = {
    trades: column(),
    positions: column(),
    longShare: column(),
    shortShare: column(),
    largestShare: column(),
    largest: new Int32Array(n).fill(-1),
    marginShare: column(),
    commissions: column(),
    spread: column(),
    slippage: column(),
    financing: column(),
  };
  const markets = n * symbols.length * 3 > mostValues ? null : { units: each(), share: each(), profit: each() };
  const settled = new Float64Array(symbols.length);
  const { capital, leverage } = run.account;
  let seen = 0;
  let pending: number[] = [];
  let before = -1;
  const held = new Float64Array(symbols.length);
  /** closes that were passed over are as the one before them */
  const fill = (until: number) => {
    const from = before + 1;
    if (from >= until) return;
    if (before >= 0)
      for (const name of ["commissions", "spread", "slippage", "financing"] as const) along[name].fill(along[name][before], from, until);
    if (markets !== null) markets.profit.forEach((profit, k) => profit.fill(settled[k], from, until));
    // the account has nothing open there, so its equity only matters for whether a share exists
    const sound = before < 0 ? capital > 0 : equityBefore > 0;
    if (!sound) for (const name of ["longShare", "shortShare", "largestShare", "marginShare"] as const) along[name].fill(NaN, from, until);
  };
  let equityBefore = capital;
  const simulation = simulate(run, {
    watch: (t, equity, legs, { log, tally }) => {
      fill(t);
      for (; seen < log.count; seen++) pending.push(seen);
      pending = pending.filter((trade) => {
        if (log.reason[trade] === 0) return true;
        settled[legs[log.leg[trade]].marketIndex] += log.net(trade);
        return false;
      });
      const money = equity > 0 ? equity : NaN;
      let [long, short, margin, positions] = [0, 0, 0, 0];
      held.fill(0);
      if (markets !== null) for (let k = 0; k < symbols.length; k++) markets.profit[k][t] = settled[k];
      for (const leg of legs) {
        if (leg.side === 0) continue;
        positions++;
        for (const trade of leg.open) {
          const notional = log.units[trade] * leg.pointValue * Math.abs(leg.lastClose);
          if (leg.side === 1) long += notional;
          else short += notional;
          held[leg.marketIndex] += leg.side * notional;
          margin += leg.margin(log.units[trade], leg.lastClose, leverage);
          if (markets === null) continue;
          markets.units[leg.marketIndex][t] += leg.side * log.units[trade];
          markets.profit[leg.marketIndex][t] += openValue(leg, log.units[trade], log.entryPrice[trade]) - log.costs[trade];
        }
      }
      let largest = -1;
      for (let k = 0; k < held.length; k++) {
        if (held[k] !== 0 && (largest < 0 || Math.abs(held[k]) > Math.abs(held[largest]))) largest = k;
        if (markets !== null) markets.share[k][t] = held[k] / money;
      }
      along.trades[t] = pending.length;
      along.positions[t] = positions;
      along.longShare[t] = long / money;
      along.shortShare[t] = short / money;
      along.largest[t] = largest;
      along.largestShare[t] = (largest < 0 ? 0 : Math.abs(held[largest])) / money;
      along.marginShare[t] = margin / money;
      along.commissions[t] = tally.commissions;
      along.spread[t] = tally.spreadCost;
      along.slippage[t] = tally.slippageCost;
      along.financing[t] = tally.financing;
      before = t;
      equityBefore = equity;
    },
  });
  fill(simulation.equity.length);
  return { ...along, symbols, markets };
}

const openValue = (leg: Leg, units: number, entry: number): number => leg.side * units * leg.pointValue * (leg.lastClose - entry);

/** Change of each market's profit from one close to another (−1: before the first), largest loss first; together the equity's change. */
export function contributions(along: Along, from: number, to: number): { symbol: string; profit: number }[] | null {
  if (along.markets === null) return null;
  return along.symbols
    .map((symbol, k) => {
      const { [k]: profit } = along.markets!.profit;
      return { symbol, profit: profit[to] - (from < 0 ? 0 : profit[from]) };
    })
    .sort((a, b) => a.profit - b.profit);
}
