import { packColumns, packRows, unpackColumns, unpackRows, type PackedShape } from "./packed-rows";
import type { OrderRecord, RunEvent, RunResult, Trade } from "./result";

/** Equity and balance after each close, one value a point; times in milliseconds. */
export interface Curves {
  time: Float64Array;
  equity: Float64Array;
  balance: Float64Array;
}

/** Levels of trades by their order: the stop and target that they began with and the stop-kind level at their end; NaN where there is none. */
export interface TradeLevels {
  stop: Float64Array;
  target: Float64Array;
  lastStop: Float64Array;
}

/** What there is of a result beside its long columns. */
export type ResultHead = Omit<RunResult, "trades" | "equity" | "orders" | "events">;

/** A result in pieces that can be fetched one by one. */
export interface ResultParts {
  curves: Uint8Array;
  trades: Uint8Array;
  orders: Uint8Array;
  events: Uint8Array;
}

const TRADES: PackedShape = [
  ["id", "number"],
  ["symbol", "word"],
  ["member", "word"],
  ["side", "word"],
  ["units", "number"],
  ["entryTime", "time"],
  ["entryPrice", "number"],
  ["entryReason", "word"],
  ["exitTime", "time"],
  ["exitPrice", "number"],
  ["exitReason", "word"],
  ["bars", "number"],
  ["gross", "number"],
  ["costs", "number"],
  ["net", "number"],
  ["percent", "number"],
  ["r", "number"],
  ["mae", "number"],
  ["mfe", "number"],
  ["open", "truth"],
];
const ORDERS: PackedShape = [
  ["id", "number"],
  ["symbol", "word"],
  ["member", "word"],
  ["side", "word"],
  ["purpose", "word"],
  ["type", "word"],
  ["price", "number"],
  ["units", "number"],
  ["placed", "time"],
  ["ended", "time"],
  ["status", "word"],
  ["why", "word"],
];
const EVENTS: PackedShape = [
  ["time", "time"],
  ["symbol", "word"],
  ["kind", "word"],
  ["detail", "word"],
];

/** Takes a result apart: its head, and its long columns as bytes. */
export function packResult({ trades, equity, orders, events, ...head }: RunResult): { head: ResultHead; parts: ResultParts } {
  return {
    head,
    parts: {
      curves: packColumns({
        time: Float64Array.from(equity.time, (text) => Date.parse(text)),
        equity: Float64Array.from(equity.equity),
        balance: Float64Array.from(equity.balance),
      }),
      trades: packRows(trades, TRADES),
      orders: packRows(orders, ORDERS),
      events: packRows(events, EVENTS),
    },
  };
}

export const unpackCurves = (bytes: Uint8Array): Curves => unpackColumns<keyof Curves>(bytes);
export const unpackTrades = (bytes: Uint8Array): Trade[] => unpackRows<Trade>(bytes);
export const unpackOrders = (bytes: Uint8Array): OrderRecord[] => unpackRows<OrderRecord>(bytes);
export const unpackEvents = (bytes: Uint8Array): RunEvent[] => unpackRows<RunEvent>(bytes);
export const packLevels = (levels: TradeLevels): Uint8Array => packColumns({ ...levels });
export const unpackLevels = (bytes: Uint8Array): TradeLevels => unpackColumns<keyof TradeLevels>(bytes);

/** Puts a result together again: the same document, to the last bit. */
export function unpackResult({ format, engine, fingerprint, halted, metrics, tables }: ResultHead, parts: ResultParts): RunResult {
  const { time, equity, balance } = unpackCurves(parts.curves);
  return {
    format,
    engine,
    fingerprint,
    trades: unpackTrades(parts.trades),
    equity: {
      time: Array.from(time, (at) => new Date(at).toISOString()),
      equity: Array.from(equity),
      balance: Array.from(balance),
    },
    orders: unpackOrders(parts.orders),
    halted,
    metrics,
    tables,
    events: unpackEvents(parts.events),
  };
}
