import { parseDate, formatDate } from "#core/bars";
import { prepareRun, simulate, type PreparedRun } from "#core/engine";
import { tradesOf } from "#core/runs";
import type { Trade } from "#core/documents";
import { sheetOf, type Sheet, type SheetOrder, type SheetPosition } from "./sheet";

/** A stop or target that moved since the session before. */
export interface MovedLevel {
  position: SheetPosition;
  level: "stop" | "target";
  before: number | null;
}

/** What is different from the sheet of the session before. */
export interface SheetChanges {
  /** the date of that sheet */
  since: string;
  newOrders: SheetOrder[];
  /** orders of that sheet that neither filled as they stood nor stand now */
  goneOrders: SheetOrder[];
  opened: Trade[];
  closed: Trade[];
  moved: MovedLevel[];
}

/** A sheet with what changed; null for the first session of a run, which has none before it. */
export interface SheetWithChanges extends Sheet {
  changes: SheetChanges | null;
}

const keyOf = ({ symbol, member, purpose, side, type, price, units, formed }: SheetOrder): string =>
  JSON.stringify([symbol, member, purpose, side, type, price, units, formed]);

/** The sheet after the last session, held against the one after the session before. */
export function sheetWithChanges(given: PreparedRun): SheetWithChanges {
  const run = stoppedAt(given, null);
  const sheet = sheetOf(run);
  const today = parseDate(sheet.date)!;
  let t = run.clock.dates.length - 1;
  while (t >= 0 && run.clock.dates[t] >= today) t--;
  if (t < 0) return { ...sheet, changes: null };
  const since = formatDate(run.clock.dates[t]);
  const before = sheetOf(stoppedAt(given, since));
  const trades = tradesOf(simulate(run, { record: true }));
  const opened = trades.filter((trade) => trade.entryTime > isoOf(run.clock.times[t]));
  const closed = trades.filter((trade) => trade.exitTime !== null && trade.exitTime > isoOf(run.clock.times[t]));
  const now = new Set(sheet.orders.map(keyOf));
  const then = new Set(before.orders.map(keyOf));
  return {
    ...sheet,
    changes: {
      since,
      newOrders: sheet.orders.filter((order) => !then.has(keyOf(order))),
      goneOrders: before.orders.filter((order) => !now.has(keyOf(order)) && !becameTrade(order, opened, closed)),
      opened,
      closed,
      moved: sheet.positions.flatMap((position) => {
        const old = before.positions.find((one) => one.trade === position.trade);
        if (old === undefined) return [];
        return (["stop", "target"] as const)
          .filter((level) => old[level] !== position[level])
          .map((level) => ({ position, level, before: old[level] }));
      }),
    },
  };
}

const isoOf = (time: number): string => new Date(time).toISOString();

/** Whether an order of the sheet before became a trade, or ended one, in the session since. */
function becameTrade(order: SheetOrder, opened: readonly Trade[], closed: readonly Trade[]): boolean {
  const same = (trade: Trade) => trade.symbol === order.symbol && (trade.member ?? null) === order.member && trade.side === order.side;
  return order.purpose === "leave" ? closed.some(same) : opened.some((trade) => same(trade) && trade.units === order.units);
}

/** The same run up to a date (null: as it is), without closing at its end. */
function stoppedAt(run: PreparedRun, to: string | null): PreparedRun {
  const settings = { ...run.settings, closeAtEnd: false, ...(to === null ? {} : { to }) };
  return prepareRun(run.members, settings, run.markets).value!;
}
