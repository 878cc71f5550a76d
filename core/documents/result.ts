import * as yup from "yup";
import { checkShape, formatKey, list, number, oneOf, text, truth, type Read } from "./shape";

/** `canyon.result/1` and its parts. Times are ISO 8601 UTC with milliseconds. */
export type SideName = "long" | "short";

export type ExitReason =
  "rule" | "opposite" | "stop" | "target" | "trail" | "breakeven" | "maxBarsHeld" | "time" | "weekday" | "halt" | "end";

export interface Trade {
  id: number;
  symbol: string;
  /** only in portfolios */
  member?: string;
  side: SideName;
  units: number;
  entryTime: string;
  entryPrice: number;
  entryReason: "rule";
  exitTime: string | null;
  exitPrice: number | null;
  exitReason: ExitReason | null;
  bars: number;
  gross: number;
  costs: number;
  net: number;
  percent: number | null;
  r: number | null;
  mae: number;
  mfe: number;
  open: boolean;
}

export type OrderStatus = "filled" | "expired" | "replaced" | "cancelled" | "skipped";

export interface OrderRecord {
  id: number;
  symbol: string;
  member?: string;
  side: SideName;
  purpose: "entry" | "exit";
  type: "market" | "stop" | "limit";
  price: number | null;
  units: number;
  placed: string;
  ended: string | null;
  status: OrderStatus;
  why: string;
}

export type EventKind =
  | "marketLimit"
  | "noMargin"
  | "reduced"
  | "overMargin"
  | "tooSmall"
  | "noPrice"
  | "badPrice"
  | "noDistance"
  | "bothSides"
  | "expired"
  | "replaced"
  | "dropped"
  | "halt"
  | "noFineBars";

export interface RunEvent {
  time: string;
  symbol: string;
  kind: EventKind;
  detail: string;
}

export type Metrics = Record<string, number | null>;

export interface PeriodRow {
  period: string;
  percent: number | null;
  uncompounded: number;
}

export interface RunResult {
  format: "canyon.result/1";
  engine: string;
  fingerprint: string;
  trades: Trade[];
  equity: { time: string[]; equity: number[]; balance: number[] };
  orders: OrderRecord[];
  halted: boolean;
  metrics: { all: Metrics; long: Metrics; short: Metrics };
  tables: { months: PeriodRow[]; years: PeriodRow[] };
  events: RunEvent[];
}

const money = () => number().required();
const stamp = () =>
  text()
    .required()
    .test("time", "must be a time, ISO 8601", (x) => x === undefined || !Number.isNaN(Date.parse(x)));
const resultSchema = yup.object({
  format: formatKey("canyon.result/1"),
  trades: list(
    yup.object({
      id: number().required(),
      side: oneOf(["long", "short"] as const).required(),
      units: money(),
      bars: money(),
      gross: money(),
      costs: money(),
      net: money(),
      open: truth().required(),
      exitTime: text().when("open", { is: false, then: () => stamp() }),
    }),
  ).required(),
  equity: yup
    .object({
      time: list(stamp()).required().min(1, "must hold at least one point"),
      equity: list(money()).required(),
      balance: list(money()).required(),
    })
    .required()
    .test(
      "lengths",
      "must hold as many values as times",
      (x) => !x?.time || (x.equity?.length === x.time.length && x.balance?.length === x.time.length),
    ),
  metrics: yup.object({ all: yup.object().required() }).required(),
});

/** Reads a stored result as far as figures can be computed from it. */
export function readResult(given: unknown): Read<RunResult> {
  const problems = checkShape(resultSchema, given);
  return problems.length > 0 ? { value: null, problems } : { value: given as RunResult, problems: [] };
}
