import type { Bars } from "#core/bars";
import * as indicators from "#core/indicators";
import { opening, pivot, type SeriesContext } from "./session-series";
import { N, windowed, wholeSetting as whole, type FunctionEntry, type Setting } from "./entries";

type Column = Float64Array;

/** A function of the bars themselves and some settings. */
function ofBars(
  name: string,
  definition: string,
  settings: Setting[],
  warmup: FunctionEntry["warmup"],
  compute: (bars: Bars, settings: number[], inputs: Column[]) => Column | Record<string, Column>,
  extra: Partial<FunctionEntry> = {},
): FunctionEntry {
  const given = settings.map((setting) => setting.default ?? 14).join(", ");
  return {
    name,
    inputs: [],
    closeByDefault: false,
    settings,
    definition,
    example: `${name}(${given})`,
    warmup,
    ...extra,
    compute: (inputs, values, bars) => compute(bars, values, inputs),
  };
}

/** A function of one or two series over the whole past or a window. */
function ofSeries(
  name: string,
  inputs: string[],
  definition: string,
  settings: Setting[],
  warmup: (settings: number[]) => number,
  compute: (inputs: Column[], settings: number[]) => Column,
  extra: Partial<FunctionEntry> = {},
): FunctionEntry {
  return { name, inputs, closeByDefault: false, settings, definition, example: `${name}(close)`, warmup, ...extra, compute };
}

/** A function of the session. */
const sessionFunction = (
  name: string,
  definition: string,
  setting: Setting,
  example: number,
  compute: (bars: Bars, context: SeriesContext, value: number) => Column,
): FunctionEntry => ({
  name,
  inputs: [],
  closeByDefault: false,
  settings: [setting],
  definition,
  example: `${name}(${example})`,
  warmup: () => (name === "pivot" ? 1 : 0),
  compute: (_inputs, [value], bars, context) => compute(bars, context, value),
});

const K = (value: number): Setting => ({ name: "k", default: value });
const WILDER = "Wilder 1978, New Concepts in Technical Trading Systems";
const KAUFMAN = "Kaufman 1995, Smarter Trading";

/** Averages, ranks, regressions, oscillators, trends and conditions beyond the first ones. */
export const FURTHER: readonly FunctionEntry[] = [
  windowed("dema", "Double exponential average: 2·ema − ema of ema.", indicators.dema, {
    warmup: ([n]) => 2 * (n - 1),
    step: ([n]) => indicators.demaStep(n),
    source: "Mulloy 1994",
  }),
  windowed("tema", "Triple exponential average: 3·ema − 3·ema of ema + ema of that.", indicators.tema, {
    warmup: ([n]) => 3 * (n - 1),
    step: ([n]) => indicators.temaStep(n),
    source: "Mulloy 1994",
  }),
  windowed(
    "hull",
    "Hull's average: the weighted average over √n bars of twice a fast weighted average minus a slow one.",
    indicators.hull,
    {
      warmup: ([n]) => n - 1 + Math.round(Math.sqrt(n)) - 1,
    },
  ),
  {
    ...windowed("kama", "Kaufman's adaptive average: fast where the price goes somewhere, slow where it only moves.", indicators.sma),
    settings: [whole("n", 10), whole("fast", 2), whole("slow", 30)],
    example: "kama(close, 10, 2, 30)",
    source: KAUFMAN,
    warmup: ([n]) => n,
    compute: ([x], [n, fast, slow]) => indicators.kama(x, n, fast, slow),
    step: ([n, fast, slow]) => indicators.kamaStep(n, fast, slow),
  },
  windowed(
    "efficiency",
    "Kaufman's efficiency ratio: net change over n bars ÷ the sum of single changes; 0 where nothing moved.",
    indicators.efficiency,
    {
      warmup: ([n]) => n,
      source: KAUFMAN,
    },
  ),
  windowed(
    "ageOfHighest",
    "Bars since the highest of the last n values, the most recent where several tie; the series must be given.",
    indicators.ageOfHighest,
    {
      closeByDefault: false,
      example: "ageOfHighest(high, 20)",
    },
  ),
  windowed(
    "ageOfLowest",
    "Bars since the lowest of the last n values, the most recent where several tie; the series must be given.",
    indicators.ageOfLowest,
    {
      closeByDefault: false,
      example: "ageOfLowest(low, 20)",
    },
  ),
  ofSeries(
    "highestEver",
    ["x"],
    "Highest value of all bars so far.",
    [],
    () => 0,
    ([x]) => indicators.highestEver(x),
    { example: "highestEver(high)", remembers: true, step: () => indicators.everStep(1) },
  ),
  ofSeries(
    "lowestEver",
    ["x"],
    "Lowest value of all bars so far.",
    [],
    () => 0,
    ([x]) => indicators.lowestEver(x),
    { example: "lowestEver(low)", remembers: true, step: () => indicators.everStep(-1) },
  ),
  {
    ...windowed("percentile", "The p-th percentile of the last n values, by linear interpolation.", indicators.median),
    settings: [N, { name: "p", least: 0, most: 100 }],
    example: "percentile(close, 20, 80)",
    compute: ([x], [n, p]) => indicators.rollingPercentile(x, n, p),
  },
  windowed("percentRank", "Share in percent of the window's other values that lie below this one.", indicators.percentRank),
  windowed("linreg", "End of the least-squares line through the last n values.", indicators.linreg),
  windowed("slope", "Slope per bar of the least-squares line through the last n values.", indicators.slope),
  ofSeries(
    "correlation",
    ["x", "y"],
    "Pearson correlation of the last n values; missing where one side does not vary.",
    [N],
    ([n]) => n - 1,
    ([x, y], [n]) => indicators.rollingCorrelation(x, y, n),
    { example: "correlation(close, volume, 20)" },
  ),
  ofSeries(
    "beta",
    ["x", "y"],
    "Covariance of x and y ÷ variance of y over the last n values; missing where one side does not vary.",
    [N],
    ([n]) => n - 1,
    ([x, y], [n]) => indicators.beta(x, y, n),
    { example: "beta(change(close), change(typical), 60)" },
  ),
  ofBars(
    "stochastic",
    "Where the close lies in the range of n bars, smoothed (.k), and smoothed again (.d).",
    [whole("n", 14), whole("k", 3), whole("d", 3)],
    ([n, k, d], part) => n + k - 2 + (part === "d" ? d - 1 : 0),
    (bars, [n, k, d]) => indicators.stochastic(bars, n, k, d),
    { parts: ["k", "d"], defaultPart: "k", source: "Lane" },
  ),
  ofBars(
    "williams",
    "Williams' %R: how far the close lies below the highest high, in percent of the range, from −100 to 0.",
    [N],
    ([n]) => n - 1,
    (bars, [n]) => indicators.williams(bars, n),
  ),
  ofBars(
    "cci",
    "Commodity channel index: the typical price against its mean, in 0.015 mean absolute deviations.",
    [N],
    ([n]) => n - 1,
    (bars, [n]) => indicators.cci(bars, n),
    { source: "Lambert 1980" },
  ),
  ofBars(
    "mfi",
    "Money flow index over n changes, from 0 to 100.",
    [N],
    ([n]) => n,
    (bars, [n]) => indicators.mfi(bars, n),
    { source: "Quong and Soudack 1989" },
  ),
  ofBars(
    "natr",
    "Average true range in percent of the close.",
    [N],
    ([n]) => n - 1,
    (bars, [n]) => indicators.natr(bars, n),
  ),
  ofBars(
    "keltner",
    "Keltner channel: ema of the typical price ± k average true ranges of m bars.",
    [whole("n", 20), K(2), whole("m", 10)],
    ([n, , m]) => Math.max(n, m) - 1,
    (bars, [n, k, m]) => indicators.keltner(bars, n, k, m),
    { parts: ["middle", "upper", "lower"], defaultPart: "middle", example: "keltner(20, 2, 10).upper" },
  ),
  ofBars(
    "adx",
    "Directional movement: how strong the trend is (.adx), and its two sides (.plus, .minus).",
    [N],
    ([n], part) => (part === "adx" ? 2 * n - 1 : n),
    (bars, [n]) => indicators.adx(bars, n),
    { parts: ["adx", "plus", "minus"], defaultPart: "adx", source: WILDER },
  ),
  ofBars(
    "supertrend",
    "A stop line k average true ranges from x that only closes in (.line), and the side that holds (.direction, 1 or −1).",
    [whole("n", 10), K(3)],
    ([n]) => n - 1,
    (bars, [n, k], [x]) => indicators.supertrend(bars, n, k, x),
    {
      parts: ["line", "direction"],
      defaultPart: "line",
      last: { name: "x", default: "medianPrice" },
      example: "supertrend(10, 3).direction",
      step: ([n, k], part, bars) => indicators.supertrendStep(bars, n, k, part!),
    },
  ),
  ofBars(
    "psar",
    "Parabolic stop and reverse.",
    [
      { name: "step", default: 0.02 },
      { name: "max", default: 0.2 },
    ],
    () => 1,
    (bars, [step, max]) => indicators.psar(bars, step, max),
    { source: WILDER },
  ),
  ofBars(
    "aroon",
    "How recent the highest high (.up) and the lowest low (.down) of n + 1 bars are, from 0 to 100; one must be named.",
    [N],
    ([n]) => n,
    (bars, [n]) => indicators.aroon(bars, n),
    { parts: ["up", "down"], example: "aroon(25).up", source: "Chande 1995" },
  ),
  ofBars(
    "choppiness",
    "How much of its path the price wasted over n bars, from 0 to 100.",
    [N],
    ([n]) => n - 1,
    (bars, [n]) => indicators.choppiness(bars, n),
    { source: "Dreiss" },
  ),
  ofBars(
    "obv",
    "On-balance volume: volume added where the close rose, taken away where it fell.",
    [],
    () => 0,
    (bars) => indicators.obv(bars),
    { example: "obv()", source: "Granville 1963" },
  ),
  ofSeries(
    "ageOf",
    ["c"],
    "Bars since a condition was last yes, 0 now; missing while it never was.",
    [],
    () => 0,
    ([c]) => indicators.ageOf(c),
    { yesNo: [0], example: "ageOf(close > open)", remembers: true, step: () => indicators.ageOfStep() },
  ),
  ofSeries(
    "count",
    ["c"],
    "How often a condition was yes on the last n bars.",
    [N],
    ([n]) => n - 1,
    ([c], [n]) => indicators.countOf(c, n),
    { yesNo: [0], example: "count(close > open, 10)" },
  ),
  ofSeries(
    "atLast",
    ["c", "x"],
    "x on the last bar on which a condition was yes; missing while it never was.",
    [],
    () => 0,
    ([c, x]) => indicators.atLast(c, x),
    { yesNo: [0], example: "atLast(close > open, low)", remembers: true, step: () => indicators.atLastStep() },
  ),
  ofSeries(
    "cumulative",
    ["x"],
    "Sum of x over all bars so far, missing values counted as 0.",
    [],
    () => 0,
    ([x]) => indicators.cumulative(x),
    { example: "cumulative(volume)", remembers: true, step: () => indicators.cumulativeStep() },
  ),
  sessionFunction(
    "openingHigh",
    "Highest price of the bars that end within the session's first m minutes; missing until these have passed; intraday only.",
    { name: "m", least: 1 },
    30,
    (bars, context, m) => opening(bars, context, m, 1),
  ),
  sessionFunction(
    "openingLow",
    "Lowest price of the bars that end within the session's first m minutes; missing until these have passed; intraday only.",
    { name: "m", least: 1 },
    30,
    (bars, context, m) => opening(bars, context, m, -1),
  ),
  sessionFunction(
    "pivot",
    "Floor-trader pivots of the previous session: 0 the pivot, 1 to 3 resistances, -1 to -3 supports.",
    { name: "k", integer: true, least: -3, most: 3 },
    1,
    pivot,
  ),
];
