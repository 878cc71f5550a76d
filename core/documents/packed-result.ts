import { packColumns, packRows, unpackColumns, unpackRows, viewRows, type PackedShape } from "./packed-rows";
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

/** A result in its pieces; levels where they are known. */
export interface PackedResult {
  head: ResultHead;
  parts: ResultParts & { levels?: Uint8Array };
}

interface Long {
  curves: Curves;
  trades: readonly Trade[];
  orders: readonly OrderRecord[];
  events: readonly RunEvent[];
  levels?: TradeLevels;
}

/** A head and its long columns as bytes. */
export function packParts(head: ResultHead, { curves, trades, orders, events, levels }: Long): PackedResult {
  const parts = {
    curves: packColumns({ ...curves }),
    trades: packRows(trades, TRADES),
    orders: packRows(orders, ORDERS),
    events: packRows(events, EVENTS),
  };
  return { head, parts: levels === undefined ? parts : { ...parts, levels: packColumns({ ...levels }) } };
}

/** Takes a result apart: its head, and its long columns as bytes. */
export function packResult({ trades, equity, orders, events, ...head }: RunResult): PackedResult {
  const curves = {
    time: Float64Array.from(equity.time, (text) => Date.parse(text)),
    equity: Float64Array.from(equity.equity),
    balance: Float64Array.from(equity.balance),
  };
  return packParts(head, { curves, trades, orders, events });
}

export const unpackCurves = (bytes: Uint8Array): Curves => unpackColumns<keyof Curves>(bytes);
export const unpackTrades = (bytes: Uint8Array): Trade[] => unpackRows<Trade>(bytes);
/** Trades that look into their columns; see `viewRows`. */
export const viewTrades = (bytes: Uint8Array): Trade[] => viewRows<Trade>(bytes);
export const viewOrders = (bytes: Uint8Array): OrderRecord[] => viewRows<OrderRecord>(bytes);
export const viewEvents = (bytes: Uint8Array): RunEvent[] => viewRows<RunEvent>(bytes);
export const unpackOrders = (bytes: Uint8Array): OrderRecord[] => unpackRows<OrderRecord>(bytes);
export const unpackEvents = (bytes: Uint8Array): RunEvent[] => unpackRows<RunEvent>(bytes);
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
