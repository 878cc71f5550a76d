import { DAY } from "#core/bars";
import { entryMoment, exitMoment, type Trade } from "#core/documents";
import { decimal, price, signed, signedMoney } from "~/design/format";

/** A column of the trade table. */
export interface TradeColumn {
  key: string;
  head: string;
  /** said in full, where columns are chosen */
  name: string;
  /** NaN: none */
  value: (trade: Trade) => number | string;
  text: (trade: Trade, tick: (symbol: string) => number) => string;
  left?: boolean;
  /** shown until somebody chooses */
  first?: boolean;
}

/** The date, with the time of day where it says something. */
const moment = (text: string): string => (text.slice(11, 16) === "00:00" ? text.slice(0, 10) : text.slice(0, 16).replace("T", " "));
const heldDays = (trade: Trade): number => (exitMoment(trade) - entryMoment(trade)) / DAY;

export const TRADE_COLUMNS: readonly TradeColumn[] = [
  { key: "id", head: "trade", name: "number", value: (t) => t.id, text: (t) => String(t.id), first: true },
  { key: "symbol", head: "market", name: "market", value: (t) => t.symbol, text: (t) => t.symbol, left: true, first: true },
  { key: "side", head: "side", name: "side", value: (t) => t.side, text: (t) => t.side, left: true, first: true },
  { key: "units", head: "units", name: "units", value: (t) => t.units, text: (t) => decimal(t.units, 0), first: true },
  { key: "entryTime", head: "entry", name: "time of the entry", value: entryMoment, text: (t) => moment(t.entryTime), left: true, first: true },
  { key: "entryPrice", head: "at", name: "price of the entry", value: (t) => t.entryPrice, text: (t, tick) => price(t.entryPrice, tick(t.symbol)), first: true },
  { key: "exitTime", head: "exit", name: "time of the exit", value: exitMoment, text: (t) => (t.exitTime === null ? "open" : moment(t.exitTime)), left: true, first: true },
  { key: "exitPrice", head: "at", name: "price of the exit", value: (t) => t.exitPrice ?? NaN, text: (t, tick) => price(t.exitPrice, tick(t.symbol)), first: true },
  { key: "exitReason", head: "by", name: "reason of the exit", value: (t) => t.exitReason ?? "", text: (t) => t.exitReason ?? "still open", left: true, first: true },
  { key: "bars", head: "bars", name: "bars held", value: (t) => t.bars, text: (t) => decimal(t.bars, 0), first: true },
  { key: "days", head: "days", name: "days held", value: heldDays, text: (t) => decimal(heldDays(t), 1) },
  { key: "gross", head: "gross", name: "result before costs", value: (t) => t.gross, text: (t) => signedMoney(t.gross) },
  { key: "costs", head: "costs", name: "commission and financing", value: (t) => t.costs, text: (t) => decimal(t.costs, 2) },
  { key: "net", head: "net", name: "result", value: (t) => t.net, text: (t) => signedMoney(t.net), first: true },
  { key: "percent", head: "%", name: "result in percent of the position", value: (t) => t.percent ?? NaN, text: (t) => signed(t.percent, 2), first: true },
  { key: "r", head: "R", name: "result in R", value: (t) => t.r ?? NaN, text: (t) => signed(t.r, 2), first: true },
  { key: "mae", head: "against", name: "furthest against it, in money", value: (t) => t.mae, text: (t) => decimal(t.mae, 0) },
  { key: "mfe", head: "with", name: "furthest with it, in money", value: (t) => t.mfe, text: (t) => decimal(t.mfe, 0) },
]; // prettier-ignore

export const FIRST_COLUMNS: readonly string[] = TRADE_COLUMNS.filter((column) => column.first).map((column) => column.key);
