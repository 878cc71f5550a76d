import { parseClock, type MarketCalendar } from "#core/bars";
import type { Distance, Figure, Order, Settings, Strategy } from "#core/documents";
import { atr } from "#core/indicators";
import { checkRule, type Column, type ColumnStore, type Formula, type PositionName } from "#core/rules";
import { mondayOf, weekdayOf } from "#core/bars";
import type { RunMarket } from "../prepare";

/**
 * The execution rules once more: written from docs/execution.md and not from the engine, with plain objects, no shortcuts
 * and no thought of speed. It exists to disagree with the engine where one of the two is wrong.
 */
type Side = 1 | -1;

interface Trade {
  market: number;
  side: Side;
  units: number;
  entryRow: number;
  entryPrice: number;
  how: "open" | "stop" | "limit" | "close";
  stop: number | null;
  target: number | null;
  initialDistance: number | null;
  trail: { distance: number; after: number; percent: number | null; level: number | null } | null;
  breakeven: { trigger: number; offset: number } | null;
  best: number;
  pathBest: number | null;
  exit: { row: number; price: number; reason: string; atClose: boolean } | null;
  gross: number;
  costs: number;
}

interface Working {
  market: number;
  side: Side;
  type: "market" | "stop" | "limit";
  price: number;
  units: number;
  signalRow: number;
  left: number;
  through: boolean;
  atClose: boolean;
  born: number;
  stopLevel: number | null;
  targetLevel: number | null;
  barred: string | null;
}

export interface SlowResult {
  trades: {
    market: number;
    side: Side;
    units: number;
    entryRow: number;
    entryPrice: number;
    exitRow: number | null;
    exitPrice: number | null;
    reason: string | null;
    net: number;
  }[];
  equity: number[];
  halted: boolean;
  events: Record<string, number>;
  ambiguousBars: number;
}

export interface SlowInput {
  strategy: Strategy;
  settings: Settings;
  markets: RunMarket[];
}

const SIDES: Side[] = [1, -1];

export function slowRun({ strategy, settings, markets }: SlowInput): SlowResult {
  return new Slow(strategy, settings, markets).run();
}

class Slow {
  trades: Trade[] = [];
  orders: Working[] = [];
  events: Record<string, number> = {};
  ambiguous = new Set<string>();
  balance: number;
  halted = false;
  born = 0;
  due: (null | { reason: string; atClose: boolean })[];
  lastClose: number[];
  row: number[];
  positions: Record<PositionName, Column>[];
  eps: number[];
  half: number[];
  slip: number[];
  formulas: Record<string, Formula>;

  constructor(
    readonly s: Strategy,
    readonly t: Settings,
    readonly m: RunMarket[],
  ) {
    this.balance = t.capital;
    this.due = m.map(() => null);
    this.lastClose = m.map(() => NaN);
    this.row = m.map(() => -1);
    this.eps = m.map(({ spec }) => 1e-6 * spec.tick);
    this.half = m.map(({ spec }) => (t.costs.spreadTicks * spec.tick) / 2);
    this.slip = m.map(({ spec }) => t.costs.slippageTicks * spec.tick);
    this.positions = m.map(({ bars: { length } }) => {
      const n = () => new Float64Array(length).fill(NaN);
      return {
        inLong: new Uint8Array(length),
        inShort: new Uint8Array(length),
        barsHeld: n(),
        entryPrice: n(),
        openProfit: n(),
        openR: n(),
      };
    });
    const texts: [string, string | undefined][] = [
      ["1 enter", s.long?.enter?.when],
      ["1 exit", s.long?.exit?.when],
      ["-1 enter", s.short?.enter?.when],
      ["-1 exit", s.short?.exit?.when],
      ["1 price", this.orderOf(1).type === "market" ? undefined : (this.orderOf(1) as { price?: string }).price],
      ["-1 price", this.orderOf(-1).type === "market" ? undefined : (this.orderOf(-1) as { price?: string }).price],
      ["stop", s.protect?.stop?.unit === "price" ? String(s.protect.stop.value) : undefined],
      ["target", s.protect?.target?.unit === "price" ? String(s.protect.target.value) : undefined],
      ["priority", s.priority],
    ];
    this.formulas = Object.fromEntries(texts.flatMap(([key, text]) => (text === undefined ? [] : [[key, checkRule(text).formula!]])));
  }

  // ——— what the documents say ———

  orderOf(side: Side): Order {
    return (side === 1 ? this.s.long : this.s.short)?.enter?.order ?? { type: "market" };
  }
  entersAtClose(side: Side): boolean {
    const order = this.orderOf(side);
    return order.type === "market" && order.at === "sameClose";
  }
  exitsAtClose(side: Side): boolean {
    return (side === 1 ? this.s.long : this.s.short)?.exit?.at === "sameClose";
  }
  opposite() {
    return this.s.onOpposite ?? "reverse";
  }
  figure(given: Figure): number {
    return given as number;
  }

  /** A formula's value at a close, with the position as it was at every close so far. */
  value(key: string, market: number, row: number): number {
    const formula = this.formulas[key];
    if (formula === undefined) return NaN;
    const store: ColumnStore = this.m[market].store.withPosition(this.positions[market]);
    return store.column(formula, {})[row];
  }

  tick(market: number): number {
    return this.m[market].spec.tick;
  }
  up(market: number, x: number): number {
    return Math.ceil(x / this.tick(market) - 1e-6) * this.tick(market);
  }
  down(market: number, x: number): number {
    return Math.floor(x / this.tick(market) + 1e-6) * this.tick(market);
  }
  /** A level of a stop or limit order to the tick that lies away from the market, where the settings ask for it. */
  level(market: number, x: number, upwards: boolean): number {
    return !this.t.roundToTick ? x : upwards ? this.up(market, x) : this.down(market, x);
  }
  recorded(market: number, x: number, buys: boolean): number {
    if (!this.t.roundToTick) return x;
    const ticks = x / this.tick(market);
    return (buys ? Math.floor(ticks + 0.5 + 1e-6) : Math.ceil(ticks - 0.5 - 1e-6)) * this.tick(market);
  }

  open(market: number): Trade[] {
    return this.trades.filter((trade) => trade.market === market && trade.exit === null);
  }
  side(market: number): Side | 0 {
    return this.open(market)[0]?.side ?? 0;
  }
  working(market: number): Working[] {
    return this.orders.filter((order) => order.market === market);
  }
  event(kind: string): void {
    this.events[kind] = (this.events[kind] ?? 0) + 1;
  }
  end(order: Working, event: string | null): void {
    this.orders = this.orders.filter((one) => one !== order);
    if (event !== null) this.event(event);
  }

  // ——— fills ———

  commission(market: number, price: number, units: number): number {
    const { costs } = this.t;
    return Math.max(
      costs.minimum,
      costs.perOrder + costs.perUnit * units + (costs.percent / 100) * Math.abs(price) * units * this.m[market].spec.pointValue,
    );
  }

  close(trade: Trade, recorded: number, reason: string, atClose: boolean): void {
    const { pointValue } = this.m[trade.market].spec;
    trade.gross = trade.side * (recorded - trade.entryPrice) * trade.units * pointValue;
    const fee = this.commission(trade.market, recorded, trade.units);
    trade.costs += fee;
    this.balance += trade.gross - fee;
    trade.exit = { row: this.row[trade.market], price: recorded, reason, atClose };
    if (this.open(trade.market).length === 0) this.due[trade.market] = null;
  }
  /** Leaves at a price of the exit's own side. */
  leave(trade: Trade, price: number, slipped: boolean, reason: string, atClose: boolean): void {
    const moved = slipped ? price - trade.side * this.slip[trade.market] : price;
    this.close(trade, this.recorded(trade.market, moved, trade.side === -1), reason, atClose);
  }
  leaveAll(market: number, mid: number, reason: string, atClose: boolean): void {
    for (const trade of this.open(market)) this.leave(trade, mid - trade.side * this.half[market], true, reason, atClose);
  }

  distance(
    given: { unit: string },
    figure: number,
    period: number,
    market: number,
    row: number,
    entry: number,
    initial: number | null,
  ): number {
    switch (given.unit) {
      case "points":
        return figure;
      case "ticks":
        return figure * this.tick(market);
      case "percent":
        return (Math.abs(entry) * figure) / 100;
      case "atr":
        return figure * atr(this.m[market].bars, period)[row];
      default:
        return figure * initial!;
    }
  }

  enter(order: Working, base: number, how: Trade["how"]): Trade {
    const { market, side, signalRow: row } = order;
    const { protect = {} } = this.s;
    const slipped = order.type !== "limit";
    const price = this.recorded(market, slipped ? base + side * this.slip[market] : base, side === 1);
    for (const other of this.open(market)) if (other.side === -side) this.close(other, price, "opposite", how === "close");
    this.end(order, null);
    if (this.opposite() !== "ignore")
      for (const other of this.working(market)) if (other.side === -side && other.type !== "market") this.end(other, "dropped");
    const { stop, target, trail, breakeven } = protect;
    const far = (given: Distance) =>
      this.distance(given, this.figure(given.value), (given.period as number) ?? 14, market, row, price, initial);
    let initial: number | null = null;
    let stopLevel: number | null = null;
    if (stop) {
      if (stop.unit === "price") stopLevel = this.level(market, order.stopLevel!, side === -1);
      else {
        initial = far(stop);
        stopLevel = this.level(market, price - side * initial, side === -1);
      }
      if (stop.unit === "price") initial = Math.abs(price - stopLevel);
    }
    let targetLevel: number | null = null;
    if (target) targetLevel = this.level(market, target.unit === "price" ? order.targetLevel! : price + side * far(target), side === 1);
    const period = (given: { period?: Figure }) => (given.period as number) ?? 14;
    const measure = (given: { unit: string; period?: Figure }, x: number) =>
      this.distance(given, x, period(given), market, row, price, initial);
    const trade: Trade = {
      market,
      side,
      units: order.units,
      entryRow: this.row[market],
      entryPrice: price,
      how,
      stop: stopLevel,
      target: targetLevel,
      initialDistance: stopLevel === null ? null : this.t.roundToTick ? Math.abs(price - stopLevel) : initial,
      trail: trail
        ? {
            distance: measure(trail, this.figure(trail.value)),
            after: measure(trail, this.figure(trail.activateAfter ?? 0)),
            percent: trail.unit === "percent" ? this.figure(trail.value) : null,
            level: null,
          }
        : null,
      breakeven: breakeven
        ? { trigger: measure(breakeven, this.figure(breakeven.trigger)), offset: measure(breakeven, this.figure(breakeven.offset ?? 0)) }
        : null,
      best: price,
      pathBest: null,
      exit: null,
      gross: 0,
      costs: 0,
    };
    const fee = this.commission(market, price, order.units);
    trade.costs += fee;
    this.balance -= fee;
    this.trades.push(trade);
    this.overMargin(trade);
    // could it leave again at once?
    const out = base - side * 2 * this.half[market];
    const held = this.effective(trade);
    if (held !== null && side * (out - held.level) <= this.eps[market]) this.leave(trade, out, true, held.reason, how === "close");
    else if (trade.target !== null && side * (out - trade.target) >= -this.eps[market])
      this.leave(trade, out, false, "target", how === "close");
    return trade;
  }

  overMargin(fresh: Trade): void {
    let equity = this.balance;
    let used = 0;
    for (const trade of this.trades.filter((one) => one.exit === null)) {
      if (trade !== fresh) equity += this.profit(trade);
      used += this.margin(trade.market, trade.units, trade === fresh ? trade.entryPrice : this.lastClose[trade.market]);
    }
    if (used > equity + 1e-9 * Math.abs(equity)) this.event("overMargin");
  }

  /** The tightest of stop, break-even and trail as they stand now, with the name of the one that set it. */
  effective(trade: Trade): { level: number; reason: string } | null {
    const { market, side } = trade;
    const gone = side * (trade.best - trade.entryPrice);
    const levels: { level: number; reason: string }[] = [];
    if (trade.stop !== null) levels.push({ level: trade.stop, reason: "stop" });
    if (trade.breakeven !== null && gone >= trade.breakeven.trigger - this.eps[market])
      levels.push({ level: this.level(market, trade.entryPrice + side * trade.breakeven.offset, side === -1), reason: "breakeven" });
    if (trade.trail !== null && gone >= trade.trail.after - this.eps[market]) {
      const far = trade.trail.percent === null ? trade.trail.distance : (Math.abs(trade.best) * trade.trail.percent) / 100;
      const now = trade.best - side * far;
      if (trade.trail.level === null || side * (now - trade.trail.level) > 0) trade.trail.level = now;
      levels.push({ level: this.level(market, trade.trail.level, side === -1), reason: "trail" });
    }
    if (levels.length === 0) return null;
    return levels.reduce((best, one) => (side * (one.level - best.level) > this.eps[market] ? one : best));
  }

  // ——— the clock ———

  run(): SlowResult {
    const from = this.t.from === null ? -Infinity : Date.parse(this.t.from) / 86_400_000;
    const to = this.t.to === null ? Infinity : Date.parse(this.t.to) / 86_400_000;
    const inside = this.m.map(({ bars, dates }) =>
      [...bars.time].flatMap((time, row) => (dates[row] >= from && dates[row] <= to ? [[time, row] as const] : [])),
    );
    const rows = inside.map((list) => new Map(list));
    const clock = [...new Set(inside.flatMap((list) => list.map(([time]) => time)))].sort((a, b) => a - b);
    const lastRow = inside.map((list) => list.at(-1)?.[1] ?? -1);
    const equity: number[] = [];
    for (const time of clock) {
      this.row = rows.map((map) => map.get(time) ?? -1);
      const here = this.m.map((_, k) => k).filter((k) => this.row[k] >= 0);
      for (const k of here) this.leaveAtOpen(k);
      for (const k of here)
        for (const order of this.working(k))
          if (order.type === "market") this.enter(order, this.m[k].bars.open[this.row[k]] + order.side * this.half[k], "open");
      for (const k of here) this.openOrders(k, this.m[k].bars.open[this.row[k]], `${k} ${this.row[k]} 0`, false);
      for (const k of here) this.within(k);
      equity.push(this.closePhase(here, lastRow));
    }
    for (const order of this.orders) this.end(order, "expired");
    return {
      trades: this.trades.map((trade) => ({
        market: trade.market,
        side: trade.side,
        units: trade.units,
        entryRow: trade.entryRow,
        entryPrice: trade.entryPrice,
        exitRow: trade.exit?.row ?? null,
        exitPrice: trade.exit?.price ?? null,
        reason: trade.exit?.reason ?? null,
        net: trade.exit === null ? this.profit(trade) - trade.costs : trade.gross - trade.costs,
      })),
      equity,
      halted: this.halted,
      events: this.events,
      ambiguousBars: this.ambiguous.size,
    };
  }

  leaveAtOpen(k: number): void {
    const { bars, dates } = this.m[k];
    const row = this.row[k];
    const open = bars.open[row];
    const { costs } = this.t;
    if (row > 0 && dates[row] !== dates[row - 1])
      for (const trade of this.open(k)) {
        const rate = trade.side === 1 ? costs.financingLongPercent : costs.financingShortPercent;
        const cost =
          (trade.units * Math.abs(bars.close[row - 1]) * this.m[k].spec.pointValue * rate * (dates[row] - dates[row - 1])) / 100 / 365;
        trade.costs += cost;
        this.balance -= cost;
      }
    const due = this.due[k];
    if (due !== null) this.leaveAll(k, open, due.reason, false);
    const late = this.lateExit(k, row);
    if (late !== null) {
      this.leaveAll(k, open, late, false);
      for (const order of this.working(k)) if (order.type !== "market") this.end(order, "dropped");
    }
    this.gap(k, open);
  }

  gap(k: number, open: number): void {
    for (const trade of this.open(k)) {
      const out = open - trade.side * this.half[k];
      const held = this.levelsNow(trade);
      if (held !== null && trade.side * (out - held.level) <= this.eps[k]) this.leave(trade, out, true, held.reason, false);
      else if (trade.target !== null && trade.side * (out - trade.target) >= -this.eps[k]) this.leave(trade, out, false, "target", false);
    }
  }

  /** The stop-kind level of this strategy bar: what moves it moves between bars only, so it is what it was at the last close or at the fill. */
  levelsNow(trade: Trade): { level: number; reason: string } | null {
    return this.effective(trade);
  }

  satisfied(order: Working, price: number): boolean {
    const e = this.eps[order.market];
    if (order.type === "stop") return order.side === 1 ? price >= order.price - e : price <= order.price + e;
    if (order.through) return order.side === 1 ? price < order.price - e : price > order.price + e;
    return order.side === 1 ? price <= order.price + e : price >= order.price - e;
  }

  openOrders(k: number, open: number, bar: string, fine: boolean): void {
    for (const order of this.working(k).sort((a, b) => a.born - b.born)) {
      if (order.type === "market" || !this.orders.includes(order)) continue;
      const own = open + order.side * this.half[k];
      if (!this.satisfied(order, own)) continue;
      if (this.side(k) === -order.side && this.opposite() === "ignore") {
        order.barred = bar;
        continue;
      }
      const better = (order.type === "stop") === (order.side === 1) ? Math.max(own, order.price) : Math.min(own, order.price);
      this.enter(order, better, fine ? (order.type as "stop" | "limit") : "open");
    }
  }

  within(k: number): void {
    const { bars, fine } = this.m[k];
    const row = this.row[k];
    const stretches: [number, number, number, number][] = [];
    if (fine === null) stretches.push([bars.open[row], bars.high[row], bars.low[row], bars.close[row]]);
    else
      for (let i = fine.from[row]; i < fine.from[row + 1]; i++)
        stretches.push([fine.bars.open[i], fine.bars.high[i], fine.bars.low[i], fine.bars.close[i]]);
    stretches.forEach((bar, i) => {
      const name = `${k} ${row} ${i}`;
      if (i > 0) {
        this.gap(k, bar[0]);
        this.openOrders(k, bar[0], name, true);
      }
      const orders = this.working(k).filter((order) => order.type !== "market");
      if (orders.filter((order) => this.inRange(order, bar)).length > 1) this.ambiguous.add(`${k} ${row}`);
      for (const trade of this.open(k)) this.undecided(trade, bar);
      if (this.t.intrabar === "path") this.path(k, bar, name);
      else this.byMode(k, bar, name);
    });
  }

  inRange(order: Working, [, high, low]: readonly number[]): boolean {
    const shift = order.side * this.half[order.market];
    return this.satisfied(order, ((order.type === "stop") === (order.side === 1) ? high : low) + shift);
  }

  /** The bar's range on the side at which a trade leaves: what is worst for it, what is best. */
  range(trade: Trade, [, high, low, close]: readonly number[]) {
    const shift = trade.side * this.half[trade.market];
    return trade.side === 1
      ? { worst: low - shift, best: high - shift, last: close - shift }
      : { worst: high - shift, best: low - shift, last: close - shift };
  }
  reaches(trade: Trade, x: number, stop: number): boolean {
    return trade.side * (x - stop) <= this.eps[trade.market];
  }
  attains(trade: Trade, x: number, target: number, beyond: boolean): boolean {
    return beyond ? trade.side * (x - target) > this.eps[trade.market] : trade.side * (x - target) >= -this.eps[trade.market];
  }
  undecided(trade: Trade, bar: readonly number[]): void {
    const held = this.levelsNow(trade);
    const { worst, best } = this.range(trade, bar);
    if (
      held !== null &&
      trade.target !== null &&
      this.reaches(trade, worst, held.level) &&
      this.attains(trade, best, trade.target, this.t.intrabar === "pessimistic")
    )
      this.ambiguous.add(`${trade.market} ${this.row[trade.market]}`);
  }

  byMode(k: number, bar: readonly number[], name: string): void {
    const hopeful = this.t.intrabar === "optimistic";
    const left: number[] = [];
    for (const trade of this.open(k)) {
      const { worst, best } = this.range(trade, bar);
      const held = this.levelsNow(trade);
      const stopped = held !== null && this.reaches(trade, worst, held.level);
      const reached = trade.target !== null && this.attains(trade, best, trade.target, !hopeful);
      this.decide(trade, held, stopped, reached, hopeful, left);
    }
    const away = (order: Working) => Math.abs(order.price - (bar[0] + order.side * this.half[k]));
    const queue = this.working(k)
      .filter((order) => order.type !== "market" && this.inRange(order, bar))
      .sort((a, b) => (Math.abs(away(a) - away(b)) <= this.eps[k] ? a.born - b.born : away(a) - away(b)));
    for (const order of queue) {
      if (!this.orders.includes(order) || order.barred === name) continue;
      if (this.opposite() === "ignore" && (this.side(k) === -order.side || this.passed(order, bar[0], left))) continue;
      const trade = this.enter(order, order.price, order.type as "stop" | "limit");
      if (trade.exit !== null) continue;
      this.undecided(trade, bar);
      const { worst, best, last } = this.range(trade, bar);
      const held = this.levelsNow(trade);
      const limit = order.type === "limit";
      // may or must an exit have come after the entry?
      const stopped = held !== null && this.reaches(trade, hopeful ? (limit ? worst : last) : worst, held.level);
      const reached = trade.target !== null && this.attains(trade, hopeful ? best : limit ? last : best, trade.target, !hopeful);
      this.decide(trade, held, stopped, reached, hopeful, left);
    }
  }

  decide(
    trade: Trade,
    held: { level: number; reason: string } | null,
    stopped: boolean,
    reached: boolean,
    hopeful: boolean,
    left: number[],
  ): void {
    if (stopped && !(hopeful && reached)) {
      left.push(held!.level);
      this.leave(trade, held!.level, true, held!.reason, false);
    } else if (reached) {
      left.push(trade.target!);
      this.leave(trade, trade.target!, false, "target", false);
    }
  }

  /** Whether an order's price lies between the open (included) and a level (not included) at which the position left. */
  passed(order: Working, open: number, left: readonly number[]): boolean {
    const own = open + order.side * this.half[order.market];
    const e = this.eps[order.market];
    return left.some((level) =>
      level > own ? order.price >= own - e && order.price < level - e : order.price <= own + e && order.price > level + e,
    );
  }

  path(k: number, [open, high, low, close]: readonly number[], name: string): void {
    const e = this.eps[k];
    const corners = high - open < open - low - e ? [high, low, close] : [low, high, close];
    const left: number[] = [];
    let at = open;
    for (const corner of corners) {
      const up = corner > at;
      for (;;) {
        const met: { mid: number; rank: number; act: () => void }[] = [];
        const offer = (mid: number, rank: number, beyond: boolean, act: () => void) => {
          const before = up ? mid < at - e : mid > at + e;
          const reached = up ? (beyond ? corner > mid + e : corner >= mid - e) : beyond ? corner < mid - e : corner <= mid + e;
          if (!before && reached) met.push({ mid, rank, act });
        };
        for (const trade of this.open(k)) {
          const shift = trade.side * this.half[k];
          const held = this.levelsNow(trade);
          if (held !== null && up === (trade.side === -1))
            offer(held.level + shift, 0, false, () => {
              left.push(held.level);
              this.leave(trade, held.level, true, held.reason, false);
            });
          if (trade.target !== null && up === (trade.side === 1))
            offer(trade.target + shift, 1, false, () => {
              left.push(trade.target!);
              this.leave(trade, trade.target!, false, "target", false);
            });
        }
        for (const order of this.working(k)) {
          if (order.type === "market" || order.barred === name) continue;
          if (up !== ((order.type === "stop") === (order.side === 1))) continue;
          if (this.opposite() === "ignore" && (this.side(k) === -order.side || this.passed(order, open, left))) continue;
          offer(order.price - order.side * this.half[k], 1 + order.born, order.through, () => {
            const trade = this.enter(order, order.price, order.type as "stop" | "limit");
            if (trade.exit === null) this.undecided(trade, [open, high, low, close]);
          });
        }
        if (met.length === 0) break;
        met.sort((a, b) => (Math.abs(a.mid - b.mid) <= e ? a.rank - b.rank : up ? a.mid - b.mid : b.mid - a.mid));
        at = met[0].mid;
        met[0].act();
      }
      at = corner;
      for (const trade of this.open(k))
        if (
          trade.entryRow === this.row[k] &&
          trade.how !== "open" &&
          (trade.pathBest === null || trade.side * (corner - trade.pathBest) > 0)
        )
          trade.pathBest = corner;
    }
  }

  profit(trade: Trade): number {
    return trade.side * (this.lastClose[trade.market] - trade.entryPrice) * trade.units * this.m[trade.market].spec.pointValue;
  }
  worth(): number {
    return this.balance + this.trades.filter((trade) => trade.exit === null).reduce((sum, trade) => sum + this.profit(trade), 0);
  }
  margin(market: number, units: number, price: number): number {
    const { margin, pointValue } = this.m[market].spec;
    return margin.mode === "fraction"
      ? (units * Math.abs(price) * pointValue * margin.value) / this.t.leverage
      : (units * margin.value) / this.t.leverage;
  }

  // ——— the close ———

  closePhase(here: number[], lastRow: number[]): number {
    const { protect = {} } = this.s;
    for (const k of here) {
      this.lastClose[k] = this.m[k].bars.close[this.row[k]];
      for (const order of this.working(k))
        if (order.type !== "market" && order.signalRow < this.row[k]) {
          order.left--;
          if (order.left === 0) this.end(order, "expired");
        }
      if (protect.maxBarsHeld !== undefined)
        for (const trade of this.open(k))
          if (this.row[k] - trade.entryRow >= this.figure(protect.maxBarsHeld))
            this.leave(trade, this.lastClose[k] - trade.side * this.half[k], true, "maxBarsHeld", true);
      const timed = this.timedExit(k, this.row[k]);
      if (timed !== null) {
        this.leaveAll(k, this.lastClose[k], timed, true);
        for (const order of this.working(k)) if (order.type !== "market") this.end(order, "dropped");
      }
    }
    if (!this.halted) {
      if (this.worth() <= (this.t.capital * this.t.haltBelowPercent) / 100) {
        this.halted = true;
        this.event("halt");
        for (const order of this.orders) this.end(order, "dropped");
        this.m.forEach((_, k) => {
          if (this.open(k).length > 0) this.due[k] = { reason: "halt", atClose: false };
        });
      } else this.rules(here);
    }
    if (this.t.closeAtEnd) for (const k of here) if (this.row[k] === lastRow[k]) this.leaveAll(k, this.lastClose[k], "end", true);
    return this.worth();
  }

  rules(here: number[]): void {
    const equity = this.worth();
    const wanted: { k: number; side: Side; priority: number }[] = [];
    for (const k of here) {
      const row = this.row[k];
      this.seePosition(k);
      for (const trade of this.open(k)) this.moveOn(trade);
      const says = (key: string) => this.value(key, k, row) === 1;
      const [long, short] = [says("1 enter"), says("-1 enter")];
      const clash = long && short && this.orderOf(1).type === "market" && this.orderOf(-1).type === "market";
      const held = this.side(k);
      if (held !== 0 && this.due[k] === null) {
        const oldest = this.open(k)[0];
        const looked = oldest.how !== "close" || oldest.entryRow < row;
        const drop = () => {
          for (const order of this.working(k)) if (order.side === held) this.end(order, "dropped");
        };
        if (looked && says(`${held} exit`)) {
          this.due[k] = { reason: "rule", atClose: this.exitsAtClose(held) };
          drop();
        } else if (!clash && (held === 1 ? short : long) && this.opposite() === "close") {
          this.due[k] = { reason: "opposite", atClose: false };
          drop();
        }
      }
      if (clash) {
        this.event("bothSides");
        continue;
      }
      for (const side of SIDES) {
        if (!(side === 1 ? long : short)) continue;
        if (this.timedExit(k, row) !== null && (this.entersAtClose(side) || !this.endsSession(k, row))) continue;
        if (held === side && (this.due[k] !== null || this.open(k).length >= (this.s.entriesAtOnce ?? 1))) continue;
        if (held === -side && this.opposite() !== "reverse") continue;
        wanted.push({ k, side, priority: this.s.priority === undefined ? NaN : this.value("priority", k, row) });
      }
    }
    const rank = (x: number) => (Number.isNaN(x) ? -Infinity : x);
    wanted
      .map((one, i) => ({ ...one, i }))
      .sort((a, b) => (rank(a.priority) === rank(b.priority) ? a.i - b.i : rank(b.priority) - rank(a.priority)))
      .forEach(({ k, side }) => this.form(k, side, equity));
    for (const k of this.m.keys()) {
      const due = this.due[k];
      if (due?.atClose) this.leaveAll(k, this.lastClose[k], due.reason, true);
    }
    for (const order of this.orders.filter((one) => one.atClose).sort((a, b) => a.born - b.born))
      this.enter(order, this.lastClose[order.market] + order.side * this.half[order.market], "close");
  }

  seePosition(k: number): void {
    const row = this.row[k];
    const [oldest] = this.open(k);
    const p = this.positions[k];
    if (oldest === undefined) return;
    (oldest.side === 1 ? p.inLong : p.inShort)[row] = 1;
    p.barsHeld[row] = row - oldest.entryRow;
    p.entryPrice[row] = oldest.entryPrice;
    p.openProfit[row] = oldest.side * (this.lastClose[k] - oldest.entryPrice);
    if (oldest.initialDistance !== null && oldest.initialDistance !== 0) p.openR[row] = p.openProfit[row] / oldest.initialDistance;
  }

  /** What holds from the next bar on: best price, trail, break-even, a stop that follows. */
  moveOn(trade: Trade): void {
    const { bars } = this.m[trade.market];
    const row = this.row[trade.market];
    let extreme: number | null = trade.side === 1 ? bars.high[row] : bars.low[row];
    if (trade.entryRow === row && trade.how !== "open") {
      if (this.t.intrabar === "path") extreme = trade.pathBest;
      else if (this.t.intrabar === "pessimistic" && trade.how === "limit") extreme = null;
    }
    if (extreme !== null && trade.side * (extreme - trade.best) > 0) trade.best = extreme;
    const { stop } = this.s.protect ?? {};
    if (stop?.unit === "price" && stop.follow) {
      const value = this.value("stop", trade.market, row);
      const level = this.level(trade.market, value, trade.side === -1);
      if (trade.side * (level - trade.stop!) > 0) trade.stop = level;
    }
    this.effective(trade);
  }

  form(k: number, side: Side, equity: number): void {
    const { spec, bars } = this.m[k];
    const { sizing, protect = {} } = this.s;
    const row = this.row[k];
    const order = this.orderOf(side);
    const atClose = this.entersAtClose(side);
    const leaves = (market: number) => {
      const due = this.due[market];
      return due !== null && (!atClose || due.atClose);
    };
    if (this.t.marketLimit !== null) {
      const held = this.m.filter((_, o) => o !== k && (this.working(o).length > 0 || (this.open(o).length > 0 && !leaves(o)))).length;
      if (held >= this.t.marketLimit) return this.event("marketLimit");
    }
    let price = bars.close[row];
    if (order.type !== "market") {
      price = this.value(`${side} price`, k, row);
      if (Number.isNaN(price)) return this.event("noPrice");
      price = this.level(k, price, (order.type === "stop") === (side === 1));
    }
    if (price <= this.eps[k] && sizing.mode !== "units" && sizing.mode !== "riskPercent") return this.event("badPrice");
    const stopLevel = protect.stop?.unit === "price" ? this.value("stop", k, row) : null;
    const targetLevel = protect.target?.unit === "price" ? this.value("target", k, row) : null;
    if ((stopLevel !== null && Number.isNaN(stopLevel)) || (targetLevel !== null && Number.isNaN(targetLevel)))
      return this.event("noDistance");
    for (const part of [protect.stop, protect.target, protect.trail, protect.breakeven])
      if (part?.unit === "atr" && Number.isNaN(atr(bars, (part.period as number) ?? 14)[row])) return this.event("noDistance");
    let risk = NaN;
    if (sizing.mode === "riskPercent") {
      const stop = protect.stop!;
      risk =
        stop.unit === "price"
          ? side * (price - this.level(k, stopLevel!, side === -1))
          : this.distance(stop, this.figure(stop.value), (stop.period as number) ?? 14, k, row, price, null);
      if (!(risk > this.eps[k])) return this.event("noDistance");
    }
    const range = sizing.mode === "atrPercent" ? atr(bars, (sizing.period as number) ?? 14)[row] : NaN;
    if (sizing.mode === "atrPercent" && !(range > this.eps[k])) return this.event("noDistance");
    const value = sizing.value as number;
    const base = sizing.base === "initial" ? this.t.capital : equity;
    const money = price * spec.pointValue;
    const raw = {
      units: value,
      cash: value / money,
      equityPercent: (base * value) / 100 / money,
      riskPercent: (base * value) / 100 / (risk * spec.pointValue),
      atrPercent: (base * value) / 100 / (range * spec.pointValue),
      equalShare: base / this.t.marketLimit! / money,
    }[sizing.mode];
    const stepped = (x: number) => Math.floor(x / spec.unitStep + 1e-9) * spec.unitStep;
    const few = (x: number) => x < spec.minUnits - 1e-9 * spec.unitStep;
    let units = stepped(raw);
    if (few(units)) return this.event("tooSmall");
    // margin: over markets the larger of a market's two sides
    const sideMargin = (o: number, which: Side) =>
      (leaves(o)
        ? 0
        : this.open(o)
            .filter((trade) => trade.side === which)
            .reduce((sum, trade) => sum + this.margin(o, trade.units, this.lastClose[o]), 0)) +
      this.working(o)
        .filter((one) => one.side === which && !(o === k && one.side === side))
        .reduce((sum, one) => sum + this.margin(o, one.units, one.price), 0);
    const used = (mine: number) =>
      this.m.reduce(
        (sum, _, o) => sum + Math.max(...SIDES.map((which) => sideMargin(o, which) + (o === k && which === side ? mine : 0))),
        0,
      );
    const fits = (n: number) => {
      const now = used(this.margin(k, n, price));
      return now <= equity + 1e-9 * Math.abs(equity) || now <= used(0) * (1 + 1e-9);
    };
    if (!fits(units)) {
      if (this.t.onLackOfMargin === "skip") return this.event("noMargin");
      let n = units;
      while (n > 0 && !fits(n)) n = stepped(n - spec.unitStep);
      if (few(n)) return this.event("noMargin");
      units = n;
      this.event("reduced");
    }
    for (const old of this.working(k)) if (old.side === side) this.end(old, "replaced");
    this.orders.push({
      market: k,
      side,
      type: order.type,
      price,
      units,
      signalRow: row,
      left: order.type === "market" ? Infinity : (order.workingBars ?? 1),
      through: order.type === "limit" && (order.through ?? true),
      atClose,
      born: ++this.born,
      stopLevel,
      targetLevel,
      barred: null,
    });
  }

  // ——— exits by the clock ———

  calendar(k: number): MarketCalendar {
    return this.m[k].calendar;
  }
  endOf(k: number, row: number): number {
    return this.calendar(k).endOf(this.m[k].bars.time[row], this.m[k].timeframe);
  }
  endsSession(k: number, row: number): boolean {
    return this.endOf(k, row) >= this.calendar(k).closeOf(this.m[k].dates[row]);
  }
  /** The moment of a week's exit, and the date of its session; without a session up to the weekday there is no bar that meets it. */
  weekExit(k: number, monday: number): { date: number; moment: number } {
    const { weekday, time } = this.s.protect!.exitWeekday!;
    const calendar = this.calendar(k);
    for (let date = monday + weekday - 1; date >= monday; date--)
      if (calendar.isSessionDate(date)) {
        const close = calendar.closeOf(date);
        return { date, moment: weekdayOf(date) === weekday ? Math.min(calendar.momentIn(date, parseClock(time)!), close) : close };
      }
    return { date: monday + weekday - 1, moment: Infinity };
  }
  timedExit(k: number, row: number): string | null {
    const { exitAt, exitWeekday } = this.s.protect ?? {};
    const date = this.m[k].dates[row];
    const end = this.endOf(k, row);
    if (exitAt !== undefined && end >= Math.min(this.calendar(k).momentIn(date, parseClock(exitAt)!), this.calendar(k).closeOf(date)))
      return "time";
    if (exitWeekday !== undefined) {
      const exit = this.weekExit(k, mondayOf(date));
      if (exit.date === date && end >= exit.moment) return "weekday";
    }
    return null;
  }
  /** What the last session with bars should have met and did not. */
  lateExit(k: number, row: number): string | null {
    const { exitAt, exitWeekday } = this.s.protect ?? {};
    const { dates } = this.m[k];
    if (row === 0 || dates[row] === dates[row - 1]) return null;
    const last = row - 1;
    if (exitAt !== undefined) {
      const date = dates[last];
      if (this.endOf(k, last) < Math.min(this.calendar(k).momentIn(date, parseClock(exitAt)!), this.calendar(k).closeOf(date)))
        return "time";
    }
    if (exitWeekday !== undefined)
      for (let monday = mondayOf(dates[last]); monday < dates[row]; monday += 7) {
        const exit = this.weekExit(k, monday);
        if (exit.date >= dates[row] || exit.date < dates[last]) continue;
        if (exit.date === dates[last] && this.endOf(k, last) >= exit.moment) continue;
        return "weekday";
      }
    return null;
  }
}
