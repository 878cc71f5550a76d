import type { Bars, DatedSeries, Session } from "#core/bars";
import type { Metrics, RunResult, Settings, Strategy } from "#core/documents";
import type { Explained } from "#core/rules";
import type { RuleConditions, RuleName, RunProblem } from "#core/runs";
import type { DetailLevel } from "./detail";

/** A backtest asked of the browser's worker. Bars are named by hash. */
export interface BacktestRequest {
  id: number;
  strategy: Strategy;
  settings: Settings;
  /** whether more of the same will be asked soon, as by a slider */
  often: boolean;
}

/** What a page asks of a run in one market: its conditions over all bars, a bar explained, or a piece of a rule's value there. */
export type WhyRequest = { id: number; strategy: Strategy; settings: Settings; symbol: string } & (
  | { what: "conditions" }
  | { what: "bar"; time: number }
  | { what: "value"; time: number; text: string }
  | { what: "variants"; definition: string }
  | { what: "settings"; list: Settings[] }
  | { what: "result" }
);

export type WhyAnswer =
  | { id: number; what: "conditions"; times: Float64Array; rules: RuleConditions[] }
  | { id: number; what: "bar"; rules: { rule: RuleName; tree: Explained }[]; position: string }
  | { id: number; what: "value"; kind: "number" | "yesno"; value: number }
  | { id: number; what: "variants" | "settings"; metrics: (Metrics | null)[] }
  | { id: number; what: "result"; text: string }
  | { id: number; what: "failed"; message: string };

/** What a page shows of a backtest. Times are epoch milliseconds. */
export interface BacktestView {
  times: Float64Array;
  equity: Float64Array;
  benchmark: Float64Array | null;
  metrics: { all: Metrics; long: Metrics; short: Metrics };
  trades: RunResult["trades"];
  levels: { stop: number | null; target: number | null }[];
  halted: boolean;
  events: RunResult["events"];
  bars: number;
  /** milliseconds of computation */
  took: number;
}

export type BacktestAnswer =
  | { id: number; view: BacktestView; problems: [] }
  | { id: number; view: null; problems: RunProblem[] }
  | { id: number; view: null; problems: []; failed: string };

/** Bars asked of the worker that loads them, or a formula on them. */
export type BarsRequest = { id: number; hash: string } & (
  { what: "load" } | { what: "formula"; rule: string; timeframe: string; session: Session | null; series: Record<string, DatedSeries> }
);

export type BarsAnswer =
  | { id: number; what: "load"; bars: Bars; levels: DetailLevel[] }
  | { id: number; what: "formula"; column: Float64Array | null; yesNo: boolean; problem: string | null }
  | { id: number; what: "failed"; message: string };
