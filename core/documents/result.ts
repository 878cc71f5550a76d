/** `canyon.result/1` and its parts. Times are ISO 8601 UTC with milliseconds. */
export type SideName = "long" | "short";

export type ExitReason = "rule" | "opposite" | "stop" | "target" | "trail" | "breakeven" | "maxBarsHeld" | "time" | "weekday" | "halt" | "end";

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
