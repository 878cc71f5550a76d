/** How many times the costs at hand a result bears before nothing is left. */
export interface EdgeLevel {
  /** null where there is nothing without costs, or still something at the most that was looked at */
  times: number | null;
  why: "found" | "nothing without costs" | "beyond";
  /** net at each multiple that was computed, by rising multiple */
  looked: { times: number; net: number }[];
}

const LADDER = [0, 1, 2, 4, 8, 16, 32];

/**
 * Solves for the multiple of the costs at which the net is 0: the first rung of a ladder without a profit, then bisection
 * between it and the rung before, to a thousandth. `netAt` computes a run; it need not fall steadily, since other costs
 * are other trades.
 */
export function edgeLevel(netAt: (times: number) => number): EdgeLevel {
  const looked: EdgeLevel["looked"] = [];
  const at = (times: number): number => {
    const net = netAt(times);
    looked.push({ times, net });
    return net;
  };
  const done = (times: number | null, why: EdgeLevel["why"]): EdgeLevel => ({
    times,
    why,
    looked: looked.sort((a, b) => a.times - b.times),
  });
  if (!(at(LADDER[0]) > 0)) return done(null, "nothing without costs");
  for (let rung = 1; rung < LADDER.length; rung++) {
    if (at(LADDER[rung]) > 0) continue;
    let [low, high] = [LADDER[rung - 1], LADDER[rung]];
    while (high - low > 0.001) {
      const middle = (low + high) / 2;
      if (at(middle) > 0) low = middle;
      else high = middle;
    }
    return done(Number(((low + high) / 2).toFixed(3)), "found");
  }
  return done(null, "beyond");
}
