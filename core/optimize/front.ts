/** A trial by two figures. */
export interface Standing {
  number: number;
  x: number;
  y: number;
}

/**
 * Trials that none beats in both figures: no other is at least as good in both and better in one (the Pareto front). `more`:
 * whether more is better, of each figure. In the order of x, ties to the lower number.
 */
export function frontOf(trials: readonly Standing[], more: readonly [x: boolean, y: boolean]): Standing[] {
  const [sx, sy] = more.map((wanted) => (wanted ? 1 : -1));
  const sorted = [...trials].sort((a, b) => sx * (b.x - a.x) || sy * (b.y - a.y) || a.number - b.number);
  const front: Standing[] = [];
  let best = -Infinity;
  let at = NaN;
  for (const trial of sorted) {
    const y = sy * trial.y;
    // one that is alike in both is beaten by nobody
    if (y > best || (y === best && trial.x === at)) {
      front.push(trial);
      best = y;
      at = trial.x;
    }
  }
  return front.sort((a, b) => a.x - b.x || a.number - b.number);
}
