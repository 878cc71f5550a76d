import type { Metrics } from "#core/documents";
import { deflatedSharpe, expectedBest } from "#core/metrics";
import { LEAST_RETURNS, resampled, type Resampled } from "./bootstrap";

/** How much a figure says about whether a result would come again. */
export type Weight = "for" | "little" | "against";

/** One answer to "is it luck?": the figure, and a sentence of what it says. */
export interface LuckAnswer {
  what: string;
  /** as shown; null where it can't be had */
  value: string | null;
  weight: Weight;
  says: string;
}

export interface LuckInput {
  metrics: Metrics;
  /** returns from session date to session date; null where an equity fell to 0 or below */
  returns: Float64Array | null;
  perYear: number;
  /** trials in the line's ledger, and the annualised Sharpe ratios of those of them that are known */
  trials: number;
  sharpes: readonly number[];
  seed: number;
}

export interface Luck {
  answers: LuckAnswer[];
  resampled: Resampled | null;
  /** annualised Sharpe ratio that the best of the trials would reach without an edge; null where it can't be had */
  bestOfNoEdge: number | null;
}

/** Fewer closed trades say nothing, whatever the figures are. */
export const LEAST_TRADES = 30;

/** A probability as a percentage that never claims to be certain. */
const percent = (x: number): string => (x > 0.9995 ? "over 99.9 %" : x > 0 && x < 0.0005 ? "under 0.1 %" : `${(100 * x).toFixed(1)} %`);
const signed = (x: number): string => `${x < 0 ? "−" : ""}${Math.abs(x).toFixed(2)}`;

/** Whether a result could be luck, by four figures; none of them gives a yes where the sample is too small. */
export function luckOf({ metrics, returns, perYear, trials, sharpes, seed }: LuckInput): Luck {
  const count = metrics.trades ?? 0;
  const few = count < LEAST_TRADES ? `only ${count} closed trades; at least ${LEAST_TRADES} are needed before this says anything` : null;
  const short =
    returns === null
      ? "the equity fell to nothing, so that there are no returns to measure"
      : returns.length < LEAST_RETURNS
        ? `only ${returns.length} returns; at least ${LEAST_RETURNS} are needed before this says anything`
        : null;
  const drawn = returns === null ? null : resampled(returns, perYear, seed);
  const variance = varianceOf(sharpes.map((x) => x / Math.sqrt(perYear)));
  const best = variance === null ? null : expectedBest(trials, variance);
  const answers = [
    ofTrades(metrics.tradeT ?? null, few),
    ofSharpe(metrics.probabilisticSharpe ?? null, short ?? few),
    ofTrials(returns, metrics, perYear, trials, variance, best, short ?? few),
    ofResampling(drawn, short ?? few),
  ];
  return { answers, resampled: drawn, bestOfNoEdge: best === null ? null : best * Math.sqrt(perYear) };
}

function ofTrades(t: number | null, few: string | null): LuckAnswer {
  const what = "t of the mean trade";
  if (t === null)
    return { what, value: null, weight: "little", says: few ?? "all trades are equal, or there are too few to measure their spread" };
  const value = signed(t);
  if (few !== null) return { what, value, weight: "little", says: few };
  if (t >= 2)
    return { what, value, weight: "for", says: `The mean trade lies ${value} standard errors above 0: chance alone seldom gives that.` };
  if (t <= 0) return { what, value, weight: "against", says: "The mean trade is not above 0." };
  return { what, value, weight: "little", says: `The mean trade lies ${value} standard errors above 0; chance alone often gives that.` };
}

function ofSharpe(probability: number | null, lacking: string | null): LuckAnswer {
  const what = "Probabilistic Sharpe ratio";
  if (probability === null) return { what, value: null, weight: "little", says: lacking ?? "the returns do not vary" };
  const value = percent(probability);
  if (lacking !== null) return { what, value, weight: "little", says: lacking };
  const says = `If this had been the only try, the true Sharpe ratio would be above 0 with a probability of ${value}.`;
  return { what, value, weight: probability >= 0.95 ? "for" : probability < 0.5 ? "against" : "little", says };
}

function ofTrials(
  returns: Float64Array | null,
  metrics: Metrics,
  perYear: number,
  trials: number,
  variance: number | null,
  best: number | null,
  lacking: string | null,
): LuckAnswer {
  const what = "Deflated Sharpe ratio";
  const tries = `${trials.toLocaleString("en")} trials on this line`;
  if (trials < 2)
    return {
      what,
      value: null,
      weight: "little",
      says: "There is one trial in the ledger: nothing was chosen among several, so there is nothing to deflate.",
    };
  if (best === null || variance === null)
    return {
      what,
      value: null,
      weight: "little",
      says: `Of ${tries}, fewer than two have a known Sharpe ratio, so that their spread can't be measured.`,
    };
  const { sharpe, skew, kurtosis } = metrics;
  if (
    returns === null ||
    sharpe === null ||
    skew === null ||
    kurtosis === null ||
    sharpe === undefined ||
    skew === undefined ||
    kurtosis === undefined
  )
    return { what, value: null, weight: "little", says: lacking ?? "there is no Sharpe ratio to deflate" };
  const probability = deflatedSharpe(sharpe / Math.sqrt(perYear), returns.length, skew, kurtosis, trials, variance);
  if (probability === null) return { what, value: null, weight: "little", says: lacking ?? "the figures do not give one" };
  const value = percent(probability);
  if (lacking !== null) return { what, value, weight: "little", says: lacking };
  const says = `The best of ${tries} would reach a Sharpe ratio of ${signed(best * Math.sqrt(perYear))} without any edge; the true one is above that with a probability of ${value}.`;
  return { what, value, weight: probability >= 0.95 ? "for" : probability < 0.5 ? "against" : "little", says };
}

function ofResampling(drawn: Resampled | null, lacking: string | null): LuckAnswer {
  const what = "Resampled returns";
  if (drawn === null) return { what, value: null, weight: "little", says: lacking ?? "" };
  const value = `${percent(drawn.lost)} lose`;
  if (lacking !== null) return { what, value, weight: "little", says: lacking };
  const { low, high } = drawn.netPercent;
  const says = `The same returns drawn again in blocks of ${drawn.block}, ${drawn.samples.toLocaleString("en")} times: nine of ten end between ${signed(low)} % and ${signed(high)} %, and ${percent(drawn.lost)} lose money.`;
  return { what, value, weight: drawn.lost <= 0.05 ? "for" : drawn.lost > 0.5 ? "against" : "little", says };
}

function varianceOf(x: readonly number[]): number | null {
  if (x.length < 2) return null;
  const mean = x.reduce((sum, one) => sum + one, 0) / x.length;
  return x.reduce((sum, one) => sum + (one - mean) ** 2, 0) / (x.length - 1);
}

/** What the number of trials does to a result: its deflated Sharpe ratio, and the ratio that luck alone would find. */
export interface Deflating {
  /** annualised Sharpe ratio of the result */
  sharpe: number;
  trials: number;
  points: { trials: number; deflated: number; best: number }[];
  now: { trials: number; deflated: number; best: number };
}

const COUNTS = [2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000, 50_000, 100_000, 1_000_000];

/**
 * The deflated Sharpe ratio (0 to 1) of a result of `n` returns by the number of trials, with the spread of the trials' known
 * annualised ratios; null without a ratio, or where fewer than two are known.
 */
export function deflatingOf({
  metrics,
  n,
  perYear,
  sharpes,
  trials,
}: Pick<LuckInput, "metrics" | "perYear" | "sharpes" | "trials"> & { n: number }): Deflating | null {
  const { sharpe, skew, kurtosis } = metrics;
  const variance = varianceOf(sharpes.map((x) => x / Math.sqrt(perYear)));
  const known = (x: number | null | undefined): x is number => x !== null && x !== undefined;
  if (variance === null || !known(sharpe) || !known(skew) || !known(kurtosis)) return null;
  const at = (count: number) => ({
    trials: count,
    deflated: deflatedSharpe(sharpe / Math.sqrt(perYear), n, skew, kurtosis, count, variance) ?? NaN,
    best: expectedBest(count, variance)! * Math.sqrt(perYear),
  });
  const points = COUNTS.filter((count) => count <= Math.max(100, 10 * trials)).map(at);
  const now = at(Math.max(2, trials));
  return [...points, now].some(({ deflated }) => Number.isNaN(deflated)) ? null : { sharpe, trials, points, now };
}
