import { momentKey } from "./packed-rows";
import type { Trade } from "./result";

const ENTRY = momentKey("entryTime");
const EXIT = momentKey("exitTime");
type Viewed = Trade & Record<string, number | undefined>;

/** A trade's entry in milliseconds. */
export const entryMoment = (trade: Trade): number => (trade as Viewed)[ENTRY] ?? Date.parse(trade.entryTime);

/** A trade's exit in milliseconds; NaN while it is open. */
export const exitMoment = (trade: Trade): number => (trade as Viewed)[EXIT] ?? (trade.exitTime === null ? NaN : Date.parse(trade.exitTime));

/** Closed trades in the order of their exits, then of their ids. */
export function closedInOrder<T extends Trade>(trades: readonly T[]): T[] {
  const closed: T[] = [];
  let ordered = true;
  let last = -Infinity;
  let lastId = -Infinity;
  for (let i = 0; i < trades.length; i++) {
    const trade = trades[i];
    if (trade.open) continue;
    const at = exitMoment(trade);
    const { id } = trade;
    if (at < last || (at === last && id < lastId)) ordered = false;
    last = at;
    lastId = id;
    closed.push(trade);
  }
  return ordered ? closed : sortedByExit(closed);
}

function sortedByExit<T extends Trade>(closed: readonly T[]): T[] {
  const at = Float64Array.from(closed, exitMoment);
  const places = Uint32Array.from(closed, (_, i) => i);
  places.sort((a, b) => at[a] - at[b] || closed[a].id - closed[b].id);
  return Array.from(places, (i) => closed[i]);
}
