import type { Bars } from "#core/bars";
import * as indicators from "#core/indicators";
import type { Kind, PositionName } from "./formula";
import { folded, N, pointwise, roundAway, wholeSetting as whole, windowed, type FunctionEntry } from "./entries";
import { FURTHER } from "./further-functions";
import { SESSION_SERIES, type SeriesColumn } from "./session-series";

export type { FunctionEntry } from "./entries";

const WILDER = "Wilder 1978, New Concepts in Technical Trading Systems";

const ENTRIES: FunctionEntry[] = [
  windowed("sma", "Simple moving average: the mean of the last n values.", indicators.sma, { fills: true }),
  windowed("ema", "Exponential moving average with α = 2/(n + 1), begun at the first n values' mean.", indicators.ema, {
    fills: true,
    step: ([n]) => indicators.emaStep(n),
  }),
  windowed("wilder", "Wilder's smoothing: as ema, with α = 1/n.", indicators.wilder, {
    fills: true,
    source: WILDER,
    step: ([n]) => indicators.wilderStep(n),
  }),
  windowed("wma", "Weighted moving average with weights 1 to n, the newest heaviest.", indicators.wma),
  windowed("sum", "Sum of the last n values.", indicators.sum, { example: "sum(volume, 5)" }),
  windowed("highest", "Highest of the last n values, this bar included; the series must be given.", indicators.highest, {
    closeByDefault: false,
    example: "highest(high, 20)",
  }),
  windowed("lowest", "Lowest of the last n values, this bar included; the series must be given.", indicators.lowest, {
    closeByDefault: false,
    example: "lowest(low, 20)",
  }),
  windowed("stdev", "Population standard deviation of the last n values.", indicators.stdev),
  windowed("median", "Median of the last n values.", indicators.median),
  windowed("zscore", "(x − sma) / stdev of the last n values; missing where the deviation is 0.", (x, n) => {
    const mean = indicators.sma(x, n);
    const deviation = indicators.stdev(x, n);
    return x.map((value, i) => (deviation[i] > 0 ? (value - mean[i]) / deviation[i] : NaN));
  }),
  windowed("change", "x minus x n bars back; n is 1 where it is left out.", indicators.change, {
    settings: [whole("n", 1)],
    example: "change(close, 5)",
    warmup: ([n]) => n,
  }),
  windowed("roc", "Rate of change in percent over n bars; n is 1 where it is left out.", indicators.roc, {
    settings: [whole("n", 1)],
    example: "roc(close, 20)",
    warmup: ([n]) => n,
  }),
  windowed("rsi", "Relative strength index of n changes, from 0 to 100.", indicators.rsi, {
    example: "rsi(close, 14)",
    source: WILDER,
    warmup: ([n]) => n,
    step: ([n]) => indicators.rsiStep(n),
  }),
  {
    name: "macd",
    inputs: ["x"],
    closeByDefault: true,
    settings: [whole("fast", 12), whole("slow", 26), whole("signal", 9)],
    parts: ["line", "signal", "histogram"],
    defaultPart: "line",
    definition: "Fast ema minus slow ema (.line), its ema (.signal) and the difference (.histogram).",
    example: "macd(close, 12, 26, 9).histogram",
    source: "Appel 1979, The Moving Average Convergence-Divergence Trading Method",
    warmup: ([fast, slow, signal], part) => Math.max(fast, slow) - 1 + (part === "line" ? 0 : signal - 1),
    compute: ([x], [fast, slow, signal]) => indicators.macd(x, fast, slow, signal),
    step: ([fast, slow, signal], part) => indicators.macdStep(fast, slow, signal, part!),
  },
  {
    name: "atr",
    inputs: [],
    closeByDefault: false,
    settings: [N],
    definition: "Average true range: Wilder's average of the true range over n bars.",
    example: "atr(14)",
    source: WILDER,
    warmup: ([n]) => n - 1,
    compute: (_inputs, [n], bars, _context, make) => indicators.atr(bars, n, make(bars.length)),
  },
  {
    name: "bollinger",
    inputs: ["x"],
    closeByDefault: true,
    settings: [whole("n", 20), { name: "k", default: 2 }],
    parts: ["middle", "upper", "lower", "width", "percentB"],
    defaultPart: "middle",
    definition: "Bollinger bands: sma ± k standard deviations, their relative width, and where x lies between them.",
    example: "bollinger(close, 20, 2).upper",
    source: "Bollinger 2001, Bollinger on Bollinger Bands",
    warmup: ([n]) => n - 1,
    compute: ([x], [n, k]) => indicators.bollinger(x, n, k),
  },
  {
    name: "donchian",
    inputs: [],
    closeByDefault: false,
    settings: [N],
    parts: ["upper", "lower", "middle"],
    defaultPart: "middle",
    definition: "Donchian channel: highest high and lowest low of the last n bars, this one included, and their middle.",
    example: "donchian(20).upper",
    warmup: ([n]) => n - 1,
    compute: (_inputs, [n], bars) => indicators.donchian(bars, n),
  },
  pointwise("abs", "The value without its sign.", Math.abs, "abs(change(close))"),
  pointwise("sqrt", "Square root; missing below 0.", Math.sqrt, "sqrt(volume)"),
  pointwise("log", "Natural logarithm; missing at 0 and below.", Math.log, "log(close)"),
  pointwise("exp", "e to the power of x.", Math.exp, "exp(x)"),
  pointwise("sign", "1 above 0, −1 below, else 0.", Math.sign, "sign(close - open)"),
  pointwise("round", "To the nearest whole number, halves away from zero.", roundAway, "round(close)"),
  pointwise("floor", "The next whole number below.", Math.floor, "floor(close)"),
  pointwise("ceil", "The next whole number above.", Math.ceil, "ceil(close)"),
  folded("min", "The smallest of two or more values."),
  folded("max", "The largest of two or more values."),
  {
    name: "power",
    inputs: ["x", "y"],
    closeByDefault: false,
    settings: [],
    definition: "x to the power of y.",
    example: "power(close, 2)",
    warmup: () => 0,
    compute: ([x, y]) => x.map((value, i) => (Number.isFinite(value ** y[i]) ? value ** y[i] : NaN)),
  },
];

/** Every function of the notation that this version knows, by name. */
export const FUNCTIONS: ReadonlyMap<string, FunctionEntry> = new Map([...ENTRIES, ...FURTHER].map((entry) => [entry.name, entry]));

/** The built-in series: what each is, and how it comes from the bars. */
export const SERIES: ReadonlyMap<string, { definition: string; column: SeriesColumn; warmup?: number }> = new Map(
  Object.entries<{ definition: string; column: SeriesColumn; warmup?: number }>({
    open: { definition: "The bar's first price.", column: (bars: Bars) => bars.open },
    high: { definition: "The bar's highest price.", column: (bars: Bars) => bars.high },
    low: { definition: "The bar's lowest price.", column: (bars: Bars) => bars.low },
    close: { definition: "The bar's last price.", column: (bars: Bars) => bars.close },
    volume: { definition: "What was traded during the bar.", column: (bars: Bars) => bars.volume },
    typical: {
      definition: "(high + low + close) / 3",
      column: (bars: Bars) => bars.close.map((c, i) => (bars.high[i] + bars.low[i] + c) / 3),
    },
    medianPrice: { definition: "(high + low) / 2", column: (bars: Bars) => bars.high.map((h, i) => (h + bars.low[i]) / 2) },
    barAverage: {
      definition: "(open + high + low + close) / 4",
      column: (bars: Bars) => bars.close.map((c, i) => (bars.open[i] + bars.high[i] + bars.low[i] + c) / 4),
    },
    trueRange: {
      definition: "The larger of high − low and the distance of high or low from the close before.",
      column: indicators.trueRange,
    },
    ibs: {
      definition: "Where the close lies in the bar: (close − low) / (high − low); missing where they are equal.",
      column: (bars: Bars) =>
        bars.close.map((c, i) => (bars.high[i] > bars.low[i] ? (c - bars.low[i]) / (bars.high[i] - bars.low[i]) : NaN)),
    },
    ...SESSION_SERIES,
  }),
);
export const SERIES_NAMES: readonly string[] = [...SERIES.keys()];

/** Values of a strategy's own position, with their definitions. */
export const POSITION: ReadonlyMap<PositionName, { definition: string; kind: Kind }> = new Map([
  ["inLong", { definition: "Whether a long position is open.", kind: "yesno" }],
  ["inShort", { definition: "Whether a short position is open.", kind: "yesno" }],
  ["barsHeld", { definition: "Bars since the entry, 0 on its own bar; missing when flat.", kind: "number" }],
  ["entryPrice", { definition: "The recorded price of the entry (the oldest one's); missing when flat.", kind: "number" }],
  ["openProfit", { definition: "Price points in the position's favour at this close; missing when flat.", kind: "number" }],
  ["openR", { definition: "openProfit ÷ the initial stop's distance; missing when flat or without a stop.", kind: "number" }],
] as const);

/** The call that names a market's extra series. */
export const EXTRA = "series";
export const EXTRA_EXAMPLE = 'series("backlog")';
