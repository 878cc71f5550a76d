import fc from "fast-check";
import { emptyBars, MINUTE, type Bars } from "#core/bars";
import { readSettings, readStrategy, type Settings, type Strategy } from "#core/documents";
import { Random } from "#core/random";

/** Generated strategies, run settings and bars that use everything the formats know: what both implementations must agree on. */
const SESSION = {
  zone: "Europe/Copenhagen",
  open: "09:00",
  close: "11:00",
  days: [1, 2, 3, 4, 5],
  holidays: ["2024-03-28"],
  earlyCloses: { "2024-04-05": "10:00" },
};

/** Five-minute bars of short sessions on a coarse tick, so that levels are met exactly now and then; some bars, some days are missing. */
export function casesBars(seed: number, days: number): Bars {
  const random = new Random(seed);
  const out: number[][] = [];
  let price = 80 + Math.floor(random.uniform() * 40);
  const step = () => Math.round(random.normal() * 2) / 2;
  for (let day = 0; day < days; day++) {
    const date = Date.UTC(2024, 2, 18) + (Math.floor(day / 5) * 7 + (day % 5)) * 86_400_000;
    if (random.uniform() < 0.06) continue;
    price += Math.round(random.normal() * 3) / 2;
    const summer = date >= Date.UTC(2024, 2, 31);
    for (let k = 0; k < 24; k++) {
      if (random.uniform() < 0.08) continue;
      const time = date + (summer ? 7 : 8) * 60 * MINUTE + k * 5 * MINUTE;
      const open = price + (random.uniform() < 0.15 ? step() : 0);
      const close = open + step();
      out.push([
        time,
        open,
        Math.max(open, close) + Math.floor(random.uniform() * 3) / 2,
        Math.min(open, close) - Math.floor(random.uniform() * 3) / 2,
        close,
      ]);
      price = Math.max(20, close);
    }
  }
  const made = emptyBars(out.length);
  out.forEach(([time, open, high, low, close], i) => {
    made.time[i] = time;
    made.open[i] = open;
    made.high[i] = high;
    made.low[i] = low;
    made.close[i] = close;
    made.volume[i] = 10 + (i % 7);
  });
  return made;
}

const pick = <T>(...values: T[]) => fc.constantFrom(...values);
const half = (min: number, max: number) => fc.integer({ min: min * 2, max: max * 2 }).map((x) => x / 2);
const maybe = <T>(arbitrary: fc.Arbitrary<T>, freq = 2) => fc.option(arbitrary, { nil: undefined, freq });

const order = (side: 1 | -1) =>
  fc.oneof(
    pick({ type: "market", at: "followingOpen" }, { type: "market", at: "sameClose" }),
    fc.record({
      type: fc.constant("stop"),
      price: side === 1 ? pick("high", "highest(high, 3)", "close + 1", "close") : pick("low", "lowest(low, 3)", "close - 1", "close"),
      workingBars: fc.integer({ min: 1, max: 6 }),
    }),
    fc.record({
      type: fc.constant("limit"),
      price:
        side === 1
          ? pick("low", "close - 0.5", "close - 0.3 * atr(3)", "lowest(low, 4)")
          : pick("high", "close + 0.5", "close + 0.3 * atr(3)", "highest(high, 4)"),
      workingBars: fc.integer({ min: 1, max: 6 }),
      through: fc.boolean(),
    }),
  );
const enter = pick(
  "close > close 1 back",
  "close < close 1 back",
  "close crosses above sma(close, 4)",
  "close crosses below sma(close, 4)",
  "rsi(2) < 30",
  "ibs > 0.6",
  "close > open and not inLong",
  "barsHeld > 2 or close < open",
);
const leave = pick(
  "close < close 2 back",
  "close > close 2 back",
  "barsHeld >= 3",
  "openProfit > 1 or openProfit < -2",
  "openR > 1",
  "close < lowest(close, 5) 1 back",
  "openProfit is falling",
);
const side = (which: 1 | -1) =>
  fc.record({
    enter: fc.record({ when: enter, order: order(which) }),
    exit: maybe(fc.record({ when: leave, at: pick("followingOpen", "sameClose") })),
  });
const measured = fc.oneof(
  fc.record({ unit: pick("points"), value: half(0.5, 4) }),
  fc.record({ unit: pick("ticks"), value: fc.integer({ min: 1, max: 8 }) }),
  fc.record({ unit: pick("percent"), value: fc.double({ min: 0.3, max: 4, noNaN: true }) }),
  fc.record({ unit: pick("atr"), value: fc.double({ min: 0.4, max: 3, noNaN: true }), period: fc.integer({ min: 1, max: 5 }) }),
);
export const shape = fc.record({
  long: maybe(side(1), 6),
  short: maybe(side(-1), 3),
  stop: maybe(
    fc.oneof(
      { arbitrary: measured, weight: 4 },
      {
        arbitrary: fc.record({ unit: pick("price"), value: pick("lowest(low, 3)", "highest(high, 3)", "close - 2"), follow: fc.boolean() }),
        weight: 1,
      },
    ),
  ),
  target: maybe(
    fc.oneof(
      { arbitrary: measured, weight: 4 },
      { arbitrary: fc.record({ unit: pick("price"), value: pick("highest(high, 5) + 1", "close + 2") }), weight: 1 },
    ),
  ),
  trail: maybe(
    fc.tuple(measured, half(0, 2)).map(([one, activateAfter]) => ({ ...one, activateAfter })),
    1,
  ),
  breakeven: maybe(
    fc.tuple(measured, half(-0.5, 1)).map(([{ value, ...one }, offset]) => ({ ...one, trigger: value, offset })),
    1,
  ),
  maxBarsHeld: maybe(fc.integer({ min: 1, max: 9 }), 1),
  exitAt: maybe(pick("10:00", "10:30", "11:00"), 1),
  exitWeekday: maybe(fc.record({ weekday: fc.integer({ min: 1, max: 7 }), time: pick("09:30", "10:30", "11:00") }), 1),
  inR: fc.boolean(),
  onOpposite: pick("reverse", "close", "ignore"),
  entriesAtOnce: fc.integer({ min: 1, max: 3 }),
  sizing: pick(
    { mode: "units", value: 3 },
    { mode: "cash", value: 3000 },
    { mode: "equityPercent", value: 60 },
    { mode: "equityPercent", value: 250, base: "initial" },
    { mode: "riskPercent", value: 2 },
    { mode: "atrPercent", value: 1, period: 3 },
  ),
  priority: maybe(pick("close", "ibs", "roc(close, 2)"), 1),
  timeframe: pick("5m", "20m", "1h", "1d"),
});
export const account = fc.record({
  costs: fc.record({
    perUnit: pick(0, 0.1),
    perOrder: pick(0, 1),
    percent: pick(0, 0.05),
    minimum: pick(0, 2),
    spreadTicks: pick(0, 1, 2),
    slippageTicks: pick(0, 1),
    financingLongPercent: pick(0, 5),
    financingShortPercent: pick(0, -2),
  }),
  intrabar: pick("pessimistic", "optimistic", "path"),
  fine: fc.boolean(),
  roundToTick: fc.boolean(),
  closeAtEnd: fc.boolean(),
  marketLimit: maybe(pick(1, 2), 1),
  onLackOfMargin: pick("reduce", "skip"),
  haltBelowPercent: pick(0, 0, 85),
  leverage: pick(1, 2),
  markets: pick(1, 1, 2, 3),
  from: maybe(pick("2024-03-21"), 1),
  to: maybe(pick("2024-04-12"), 1),
});

export function documents(
  s: typeof shape extends fc.Arbitrary<infer T> ? T : never,
  a: typeof account extends fc.Arbitrary<infer T> ? T : never,
): [Strategy, Settings] | null {
  if (s.long === undefined && s.short === undefined) return null;
  const atClose = [s.long, s.short].some(
    (one) => one?.enter.order.type === "market" && (one.enter.order as { at: string }).at === "sameClose",
  );
  const sizing = s.sizing.mode === "riskPercent" && s.stop === undefined ? { mode: "units", value: 2 } : s.sizing;
  const r = s.inR && s.stop !== undefined;
  const strategy = readStrategy({
    format: "canyon.strategy/1",
    timeframe: s.timeframe,
    long: s.long,
    short: s.short,
    protect: {
      stop: s.stop,
      target: r && s.target?.unit === "points" ? { unit: "r", value: s.target.value } : s.target,
      trail: r && s.trail?.unit === "points" ? { ...s.trail, unit: "r" } : s.trail,
      breakeven: s.breakeven,
      maxBarsHeld: s.maxBarsHeld === undefined ? undefined : atClose ? s.maxBarsHeld : s.maxBarsHeld - 1,
      exitAt: s.exitAt,
      exitWeekday: s.exitWeekday,
    },
    sizing,
    onOpposite: s.onOpposite,
    entriesAtOnce: s.entriesAtOnce,
    priority: s.priority,
  });
  const { fine, markets, ...rest } = a;
  const settings = readSettings({
    format: "canyon.settings/1",
    ...rest,
    fineTimeframe: fine && s.timeframe !== "5m" ? "5m" : null,
    capital: 10_000,
    markets: Array.from({ length: markets }, (_, k) => ({
      symbol: `M${k}`,
      bars: `m${k}`,
      timeframe: "5m",
      tick: 0.5,
      pointValue: k === 1 ? 2 : 1,
      unitStep: k === 2 ? 0.5 : 1,
      margin: k === 1 ? { mode: "perUnit", value: 40 } : { mode: "fraction", value: 0.5 },
      session: SESSION,
    })),
  });
  const problems = [...strategy.problems, ...settings.problems];
  if (problems.length > 0) throw new Error(`a generated case is refused: ${JSON.stringify(problems)}`);
  return [strategy.value!, settings.value!];
}
