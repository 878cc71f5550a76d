import { median } from "#core/metrics";
import { placesOf, type Axis } from "./values";

/** Trials as places on a grid, with who stands beside whom: values that differ by one place in one range. */
export class Places {
  private readonly at: Map<number, number>;
  /** how far apart two neighbours on an axis lie in combination numbers */
  private readonly strides: number[];
  readonly steps: boolean;

  constructor(
    readonly axes: readonly Axis[],
    /** the combination of each trial, by its number */
    readonly combinations: ArrayLike<number>,
  ) {
    this.at = new Map();
    for (let i = 0; i < combinations.length; i++) this.at.set(combinations[i], i);
    this.strides = axes.map((_, a) => axes.slice(a + 1).reduce((product, axis) => product * axis.values.length, 1));
    this.steps = axes.some((axis) => axis.steps);
  }

  /** What lies one step away: a trial's number, or −1 for a combination that is no trial or lies off the grid. */
  around(trial: number): number[] {
    const combination = this.combinations[trial];
    const places = placesOf(this.axes, combination);
    const out: number[] = [];
    this.axes.forEach((axis, a) => {
      if (!axis.steps) return;
      for (const by of [-1, 1]) {
        const place = places[a] + by;
        const beside = place < 0 || place >= axis.values.length ? undefined : this.at.get(combination + by * this.strides[a]);
        out.push(beside ?? -1);
      }
    });
    return out;
  }
}

export interface Plateau {
  /** the fit from which on a trial may belong to it; null without a trial inside */
  mark: number | null;
  /** numbers of its trials, ascending */
  trials: number[];
  /** for every trial its distance in steps to what is not in it, 0 off it; null where nothing has steps */
  depth: Int32Array | null;
  /** its deepest trial, ties to the higher fit, then the lower number */
  recommended: number | null;
}

/** Halfway from the median of the fits to their 95th percentile, the lower of the two fits around that. */
export function defaultMark(fits: readonly (number | null)[]): number | null {
  const known = Float64Array.from(fits.filter((fit) => fit !== null)).sort();
  if (known.length === 0) return null;
  return (median(known) + known[Math.floor(0.95 * (known.length - 1))]) / 2;
}

/** The largest connected region of trials with a fit at or above the mark; ties: the higher fit in it, then the lowest number. */
export function plateauOf(places: Places, fits: readonly (number | null)[], givenMark: number | null = null): Plateau {
  const mark = givenMark ?? defaultMark(fits);
  const depth = places.steps ? new Int32Array(fits.length) : null;
  const none: Plateau = { mark, trials: [], depth, recommended: null };
  if (mark === null) return none;
  const high = fits.map((fit) => fit !== null && fit >= mark);
  const seen = new Uint8Array(fits.length);
  let largest: { trials: number[]; top: number } | null = null;
  for (let first = 0; first < fits.length; first++) {
    if (!high[first] || seen[first]) continue;
    const region = [first];
    seen[first] = 1;
    let top = -Infinity;
    for (let k = 0; k < region.length; k++) {
      top = Math.max(top, fits[region[k]]!);
      for (const beside of places.around(region[k]))
        if (beside >= 0 && high[beside] && !seen[beside]) {
          seen[beside] = 1;
          region.push(beside);
        }
    }
    // regions come in the order of their lowest numbers, so a tie keeps the earlier one
    if (largest === null || region.length > largest.trials.length || (region.length === largest.trials.length && top > largest.top))
      largest = { trials: region, top };
  }
  if (largest === null) return none;
  const trials = largest.trials.sort((a, b) => a - b);
  if (depth !== null) measureDepth(places, trials, depth);
  let recommended = trials[0];
  for (const trial of trials) {
    const [a, b] = depth === null ? [0, 0] : [depth[trial], depth[recommended]];
    if (a > b || (a === b && fits[trial]! > fits[recommended]!)) recommended = trial;
  }
  return { mark, trials, depth, recommended };
}

/** Distances from the region's edge inward, layer by layer: whatever lies between a trial and the nearest outside is in the region itself. */
function measureDepth(places: Places, trials: readonly number[], depth: Int32Array): void {
  const inside = new Set(trials);
  const around = new Map(trials.map((trial) => [trial, places.around(trial)]));
  let layer = trials.filter((trial) => around.get(trial)!.some((beside) => !inside.has(beside)));
  for (let distance = 1; layer.length > 0; distance++) {
    for (const trial of layer) depth[trial] = distance;
    const next = new Set<number>();
    for (const trial of layer) for (const beside of around.get(trial)!) if (inside.has(beside) && depth[beside] === 0) next.add(beside);
    layer = [...next];
  }
}

/** 1 − the median fit of a trial's neighbours (those outside count as 0) ÷ its own; null without neighbours or where its fit is ≤ 0. */
export function fragilityOf(places: Places, fits: readonly (number | null)[], trial: number): number | null {
  const own = fits[trial];
  const beside = places.around(trial).filter((other) => other >= 0);
  if (own === null || !(own > 0) || beside.length === 0) return null;
  return 1 - median(beside.map((other) => fits[other] ?? 0)) / own;
}
