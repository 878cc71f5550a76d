import { and, desc, eq } from "drizzle-orm";
import type { Settings, Trade } from "#core/documents";
import { prepareRun, Scratch, simulate, type PreparedRun } from "#core/engine";
import { periodEnds, periodReturns, periodsPerYear } from "#core/metrics";
import {
  alongOf,
  edgeLevel,
  deflatingOf,
  luckOf,
  settingsDifference,
  tradeDifference,
  type Along,
  type Deflating,
  type EdgeLevel,
  type Luck,
} from "#core/reading";
import { prepareBacktest } from "#core/runs";
import { timesCosts } from "#core/settings";
import { differences, type Difference } from "#core/wording";
import type { BarCache } from "./bar-store";
import type { Database } from "./db/open";
import { optimizations, trialColumns, versions } from "./db/schema";
import { Refused } from "./problem";
import { lineOf, type SentLine } from "./lines";
import type { Runs, RunSummary, StoredRun } from "./runs";
import type { Strategies, TrialLedger } from "./strategies";

/** As many runs can be set beside each other. */
export const MOST_COMPARED = 8;

/** Parts of a line's trials, some hundreds each, whose Sharpe ratios are looked at for their spread; the newest ones. */
const KNOWN_PARTS = 100;

/** As many runs' quantities along the way stay at hand. */
const KEPT = 3;

/** A run among those that are compared: its curve thinned for drawing, and what tells it from the first. */
export interface ComparedRun {
  summary: RunSummary;
  line: SentLine;
  rules: Difference[];
  settings: Difference[];
  trades: { both: number; onlyFirst: Trade[]; onlySecond: Trade[] } | null;
}

/** What is asked of stored runs after they are there: is it luck, what do costs take, what tells two apart. */
export class Reading {
  private readonly along = new Map<number, Promise<{ run: PreparedRun; along: Along }>>();

  constructor(
    private readonly db: Database,
    private readonly bars: BarCache,
    private readonly runs: Runs,
    private readonly strategies: Strategies,
  ) {}

  /** A stored run, ready to be computed again. */
  async prepared({ version, summary }: StoredRun): Promise<PreparedRun> {
    const bars = await this.bars.all(summary.settings.markets.map((market) => market.bars));
    const { run, problems } = prepareBacktest(version.strategy, summary.settings, bars);
    if (run === null) throw new Refused(problems.map(({ in: where, path, message }) => ({ path: `${where}.${path}`, message })));
    return run;
  }

  /** Annualised Sharpe ratios of the line's trials and stored runs, as far as they are known. */
  private async sharpesOf(strategyId: number): Promise<number[]> {
    const rows = await this.db
      .select({ data: trialColumns.data })
      .from(trialColumns)
      .innerJoin(optimizations, eq(optimizations.id, trialColumns.optimizationId))
      .innerJoin(versions, eq(versions.id, optimizations.versionId))
      .where(and(eq(versions.strategyId, strategyId), eq(trialColumns.column, "sharpe")))
      .orderBy(desc(trialColumns.optimizationId), desc(trialColumns.first))
      .limit(KNOWN_PARTS);
    const known = rows.flatMap(({ data }) => [...new Float64Array(Uint8Array.from(data).buffer)].filter((sharpe) => !Number.isNaN(sharpe)));
    const stored = await this.runs.ofStrategy(strategyId);
    return [...known, ...stored.flatMap((run) => run.metrics.all.sharpe ?? [])];
  }

  /** What judging a run against luck rests on. */
  private async measured(run: StoredRun) {
    const { summary, result } = run;
    const [prepared, curves, ledger, sharpes] = await Promise.all([
      this.prepared(run),
      result.curves(),
      this.strategies.trialsOf(summary.strategyId),
      this.sharpesOf(summary.strategyId),
    ]);
    const returns = periodReturns(curves.equity, periodEnds(prepared), summary.settings.capital);
    return { metrics: result.head.metrics.all, returns, perYear: periodsPerYear(prepared), sharpes, ledger };
  }

  /** Whether a run's result could be luck. */
  async luck(run: StoredRun): Promise<{ luck: Luck; ledger: TrialLedger }> {
    const { ledger, ...measured } = await this.measured(run);
    const seed = Number.parseInt(run.summary.fingerprint.slice(0, 7), 16);
    return { luck: luckOf({ ...measured, trials: ledger.total, seed }), ledger };
  }

  /** What the number of trials on a run's line does to its deflated Sharpe ratio. */
  async deflating(run: StoredRun): Promise<Deflating | null> {
    const { ledger, returns, ...measured } = await this.measured(run);
    return returns === null ? null : deflatingOf({ ...measured, n: returns.length, trials: ledger.total });
  }

  /** How many times its costs a run bears, and its equity without any. */
  async costs(run: StoredRun): Promise<{ edge: EdgeLevel; free: Float64Array }> {
    const prepared = await this.prepared(run);
    const { settings } = run.summary;
    const scratch = new Scratch();
    const under = (times: number) => {
      const costs = timesCosts(settings.costs, times);
      return simulate(prepareRun(prepared.members, { ...settings, costs }, prepared.markets).value!, { scratch }).equity;
    };
    const edge = edgeLevel((times) => under(times).at(-1)! - settings.capital);
    return { edge, free: under(0).slice() };
  }

  /** What a run held, and what that had cost and brought, at every close. */
  alongOf(run: StoredRun): Promise<{ run: PreparedRun; along: Along }> {
    const { id } = run.summary;
    let known = this.along.get(id);
    if (known === undefined) {
      known = this.prepared(run).then((prepared) => ({ run: prepared, along: alongOf(prepared) }));
      known.catch(() => this.along.delete(id));
      this.along.set(id, known);
      if (this.along.size > KEPT) this.along.delete(this.along.keys().next().value!);
    }
    return known;
  }

  /** Runs beside each other, each against the first. Refuses more than eight, and ids that are none. */
  async compare(ids: readonly number[]): Promise<ComparedRun[]> {
    if (ids.length > MOST_COMPARED)
      throw new Refused([{ path: "runs", message: `at most ${MOST_COMPARED} runs can be compared; these are ${ids.length}` }]);
    const stored = await Promise.all(ids.map((id) => this.runs.get(id)));
    const missing = ids.filter((_, i) => stored[i] === null);
    if (missing.length > 0) throw new Refused([{ path: "runs", message: `there is no run ${missing.join(", ")}` }], 404);
    const found = stored as StoredRun[];
    const [first] = found;
    const trades = await Promise.all(found.map(({ result }) => result.trades()));
    return Promise.all(
      found.map(async ({ summary, result, version }, i) => {
        const { time, equity } = await result.curves();
        return {
          summary,
          line: lineOf("", time, equity),
          rules: i === 0 ? [] : differences(first.version.strategy, version.strategy),
          settings: i === 0 ? [] : settingsDifference(first.summary.settings as Settings, summary.settings),
          trades: i === 0 ? null : tradeDifference(trades[0], trades[i]),
        };
      }),
    );
  }
}
