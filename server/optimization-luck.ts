import { deflatedSharpe, METRIC_INDEX, sampleDeviation } from "#core/metrics";
import { histogramOf, type Bin } from "#core/reading";
import type { ChunkExecutor } from "./jobs/protocol";
import type { OptimizationView } from "./optimizations";
import type { OverfittingInput, OverfittingOutput } from "./overfitting-stream";
import { refuse } from "./problem";
import type { Strategies } from "./strategies";
import type { TrialStore } from "./trial-store";
import { LOOK, type Trials } from "./trials";

/** How much of a finished optimization is luck, as far as its own trials tell. */
export interface OptimizationLuck {
  pbo: number | null;
  /** how the best in sample stood out of sample: λ below 0 is the worse half */
  histogram: Bin[];
  /** deflated Sharpe ratio of the peak, by this optimization's trials and by the ledger's count; null without one */
  deflated: { trials: number; ledger: number; own: number | null; line: number | null };
  /** trials that most often were best in sample, with the share of choices */
  leaders: { number: number; share: number }[];
  /** ranks in the first half of the time against those in the second */
  halves: OverfittingOutput["halves"];
  /** trials that were looked at, of all */
  looked: number;
  trials: number;
}

const LEADERS = 5;

/** Computes trials once more for their returns, once an optimization, and judges them by the ledger as it is now. */
export class OptimizationLucks {
  private readonly held = new Map<number, Promise<OverfittingOutput>>();

  constructor(
    private readonly store: TrialStore,
    private readonly trials: Trials,
    private readonly strategies: Strategies,
    private readonly executor: ChunkExecutor,
  ) {}

  private overfitting(view: OptimizationView): Promise<OverfittingOutput> {
    let known = this.held.get(view.id);
    if (known === undefined) {
      known = this.strategies.version(view.versionId).then((version) => {
        const { settings, search, id } = view;
        const input: OverfittingInput = { optimizationId: id, strategy: version!.strategy, settings, search };
        return this.executor.run({ ...LOOK, kind: "overfitting", input }) as Promise<OverfittingOutput>;
      });
      known.catch(() => this.held.delete(view.id));
      this.held.set(view.id, known);
    }
    return known;
  }

  /** Refused while the optimization is not done, and where its trials have no account of their own. */
  async of(view: OptimizationView): Promise<OptimizationLuck> {
    if (view.job.state !== "done") return refuse("optimization", "how much is luck is known once all trials are there", 409);
    if ((view.search.pooling ?? "together") !== "together")
      return refuse("optimization", "markets that are taken each by itself have no common account whose returns could be cut into halves");
    const [found, ledger] = await Promise.all([this.overfitting(view), this.strategies.trialsOf(view.strategyId)]);
    const counts = new Map<number, number>();
    for (const number of found.best) counts.set(number, (counts.get(number) ?? 0) + 1);
    const all = view.job.done;
    return {
      pbo: found.pbo,
      histogram: histogramOf(found.lambdas),
      deflated: {
        trials: all,
        ledger: ledger.total,
        ...(await this.deflated(view, found, [all, Math.max(ledger.total, all)])),
      },
      leaders: [...counts]
        .map(([number, count]) => ({ number, share: count / found.best.length }))
        .sort((a, b) => b.share - a.share || a.number - b.number)
        .slice(0, LEADERS),
      halves: found.halves,
      looked: found.numbers.length,
      trials: all,
    };
  }

  /** Deflated Sharpe ratio of the peak against two counts of trials, with the spread of the ratios of all trials here. */
  private async deflated(view: OptimizationView, { periods, perYear }: OverfittingOutput, [own, line]: [number, number]) {
    const table = await this.trials.table(view, ["sharpe"]);
    const best = table.best();
    const ratios = table
      .column("sharpe")
      .filter((ratio) => !Number.isNaN(ratio))
      .map((ratio) => ratio / Math.sqrt(perYear));
    if (best === null || ratios.length < 2 || Number.isNaN(table.column("sharpe")[best])) return { own: null, line: null };
    const number = table.numbers[best];
    const [figures] = await this.store.figures(view.id, number, number + 1);
    const at = (key: string) => figures[METRIC_INDEX[key]];
    const spread = sampleDeviation(ratios) ** 2;
    const against = (count: number) =>
      deflatedSharpe(at("sharpe") / Math.sqrt(perYear), periods, at("skew"), at("kurtosis"), count, spread);
    return { own: against(own), line: against(line) };
  }
}
