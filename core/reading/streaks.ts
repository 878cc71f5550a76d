import { closedInOrder, exitMoment, type Trade } from "#core/documents";

/** Winners or losers in a row, by exit time, then id; a trade of exactly 0 ends a run and belongs to none. */
export interface Streak {
  won: boolean;
  count: number;
  net: number;
  /** ids of its first and last trade, and the times of their exits in milliseconds */
  first: number;
  last: number;
  from: number;
  to: number;
}

export interface Streaks {
  runs: Streak[];
  /** how many runs of winners and of losers there are of each length, from 1 on */
  lengths: { length: number; won: number; lost: number }[];
  /**
   * How far the number of runs lies from what chance would give, in standard deviations (Wald and Wolfowitz 1940): well
   * below 0, wins and losses come in clusters; well above, they take turns. Null without two winners and two losers.
   */
  z: number | null;
}

/** Runs of winners and losers among closed trades. */
export function streaksOf(trades: readonly Trade[]): Streaks {
  const closed = closedInOrder(trades);
  const runs: Streak[] = [];
  let current: Streak | null = null;
  let winners = 0;
  let losers = 0;
  let turns = 0;
  let before: boolean | null = null;
  for (const trade of closed) {
    if (trade.net === 0) {
      current = null;
      continue;
    }
    const won = trade.net > 0;
    if (won) winners++;
    else losers++;
    if (before !== won) turns++;
    before = won;
    if (current === null || current.won !== won) {
      current = { won, count: 0, net: 0, first: trade.id, last: trade.id, from: exitMoment(trade), to: exitMoment(trade) };
      runs.push(current);
    }
    current.count++;
    current.net += trade.net;
    current.last = trade.id;
    current.to = exitMoment(trade);
  }
  const longest = runs.reduce((most, run) => Math.max(most, run.count), 0);
  const lengths = Array.from({ length: longest }, (_, i) => ({ length: i + 1, won: 0, lost: 0 }));
  for (const run of runs) lengths[run.count - 1][run.won ? "won" : "lost"]++;
  return { runs, lengths: lengths.filter(({ won, lost }) => won + lost > 0), z: turnsZ(turns, winners, losers) };
}

function turnsZ(turns: number, winners: number, losers: number): number | null {
  if (winners < 2 || losers < 2) return null;
  const n = winners + losers;
  const pairs = 2 * winners * losers;
  const expected = pairs / n + 1;
  return (turns - expected) / Math.sqrt((pairs * (pairs - n)) / (n * n * (n - 1)));
}
