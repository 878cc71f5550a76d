import type { Strategy } from "#core/documents";

/** A complete strategy to start from, and what it is shown on. */
export interface ReadyMadeStrategy {
  /** symbol of the market that it was written for, or the kind of all that it ranks */
  market: string;
  strategy: Strategy;
  /** further markets that are traded or looked at with it */
  others?: readonly string[];
  /** every market of a kind belongs to it, in at most so many at once */
  every?: { kind: string; marketLimit: number };
}

type Body = Omit<Strategy, "format" | "name" | "notes">;
const made = (
  market: string,
  name: string,
  notes: string,
  body: Body,
  more: Omit<ReadyMadeStrategy, "market" | "strategy"> = {},
): ReadyMadeStrategy => ({ market, strategy: { format: "canyon.strategy/1", name, notes, ...body }, ...more });

const whole = (name: string, value: number, min: number, max: number, step: number, about: string) => ({
  name,
  kind: "whole" as const,
  value,
  min,
  max,
  step,
  about,
});
const number = (name: string, value: number, min: number, max: number, step: number, about: string) => ({
  name,
  kind: "number" as const,
  value,
  min,
  max,
  step,
  about,
});

/**
 * Complete strategies to start from, in the Saltmarch scenario. Each has its reason; none is a promise. Between them they
 * use everything that the format knows.
 */
export const READY_MADE_STRATEGIES: readonly ReadyMadeStrategy[] = [
  made(
    "FERRY",
    "Two averages, both sides",
    "Freight moves in long swings. A fast average above a slow one follows them without an opinion of its own; always in the market, long or short, so that no swing is missed. The price is many small losses while nothing moves.",
    {
      timeframe: "1d",
      parameters: [whole("fast", 20, 5, 50, 5, "bars in the fast average"), whole("slow", 60, 20, 200, 10, "bars in the slow average")],
      definitions: [
        { name: "quick", rule: "sma(close, fast)" },
        { name: "calm", rule: "sma(close, slow)" },
      ],
      long: { enter: { when: "quick crosses above calm" } },
      short: { enter: { when: "quick crosses below calm" } },
      sizing: { mode: "atrPercent", value: 0.5, period: 20 },
      onOpposite: "reverse",
    },
  ),
  made(
    "KELP",
    "Opening range, out by four",
    "Meal that leaves the range of its first half hour tends to run on until the day's orders are filled. In with a stop order at the edge of the range, one side only, out at four in the afternoon: nothing is held overnight.",
    {
      timeframe: "5m",
      parameters: [whole("minutes", 30, 15, 90, 15, "length of the opening range")],
      long: { enter: { when: "sessionMinutes = minutes", order: { type: "stop", price: "openingHigh(minutes)", workingBars: 24 } } },
      short: { enter: { when: "sessionMinutes = minutes", order: { type: "stop", price: "openingLow(minutes)", workingBars: 24 } } },
      protect: { stop: { unit: "atr", value: 3, period: 20 }, exitAt: "16:00" },
      sizing: { mode: "riskPercent", value: 0.5 },
      onOpposite: "ignore",
    },
  ),
  made(
    "BARLEY",
    "Barley in season",
    "Stocks run low before the harvest, and the price carries the worry from March to June. In by month, out by month, nothing else: the plainest form of a season, and a baseline for every filter.",
    {
      timeframe: "1d",
      parameters: [
        whole("first", 3, 1, 12, 1, "month in which it is bought"),
        whole("last", 6, 1, 12, 1, "last month in which it is held"),
      ],
      long: { enter: { when: "month = first and month != month 1 back" }, exit: { when: "month > last or month < first" } },
      sizing: { mode: "equityPercent", value: 100 },
    },
  ),
  made(
    "BARLEY",
    "Barley in season, with its average",
    "The same season, but only while the price stands above its average: a season that does not come is left out. Compare it with the one without the filter before believing either.",
    {
      timeframe: "1d",
      parameters: [whole("average", 60, 20, 200, 10, "bars in the average that must lie below the price")],
      definitions: [{ name: "season", rule: "month from 3 to 6" }],
      long: { enter: { when: "season and close > sma(close, average)" }, exit: { when: "not season or close < sma(close, average)" } },
      protect: { stop: { unit: "percent", value: 8 } },
      sizing: { mode: "equityPercent", value: 100 },
    },
  ),
  made(
    "SALT40",
    "Closes down in a row",
    "An index that fell for several days in a rising market often has sellers who are done. Bought at the same close, sold after a few bars whatever happens: the exit is time, so that the idea is the entry alone.",
    {
      timeframe: "1d",
      parameters: [whole("days", 3, 2, 6, 1, "closes down in a row"), whole("held", 5, 1, 15, 1, "bars until it is sold")],
      long: {
        enter: { when: "close < close 1 back throughout days and close > sma(close, 200)", order: { type: "market", at: "sameClose" } },
      },
      protect: { maxBarsHeld: "held" },
      sizing: { mode: "equityPercent", value: 100 },
    },
  ),
  made(
    "SALT40",
    "Two-bar RSI",
    "The shortest of oscillators finds the sharpest of dips. Bought below ten above a long average, sold when it is back above seventy. No stop: where the idea is a bounce, a stop sells at the worst moment. That is a claim, too.",
    {
      timeframe: "1d",
      parameters: [
        whole("dip", 10, 2, 30, 2, "RSI below which it is bought"),
        whole("relief", 70, 50, 95, 5, "RSI above which it is sold"),
      ],
      long: { enter: { when: "rsi(2) < dip and close > sma(close, 200)" }, exit: { when: "rsi(2) > relief", at: "sameClose" } },
      sizing: { mode: "equityPercent", value: 100 },
    },
  ),
  made(
    "FERRY",
    "Bands with the trend",
    "A close two deviations away from its average is taken as the start of a move, not as its end. Out after a number of bars, since trends that go on give another signal.",
    {
      timeframe: "1d",
      parameters: [
        whole("bars", 40, 10, 100, 10, "bars in the bands"),
        number("width", 1.5, 0.5, 3, 0.25, "deviations to each side"),
        whole("held", 30, 5, 60, 5, "bars until it is closed"),
      ],
      definitions: [
        { name: "top", rule: "bollinger(close, bars, width).upper" },
        { name: "bottom", rule: "bollinger(close, bars, width).lower" },
      ],
      long: { enter: { when: "close crosses above top" } },
      short: { enter: { when: "close crosses below bottom" } },
      protect: { stop: { unit: "atr", value: 4, period: 20 }, maxBarsHeld: "held" },
      sizing: { mode: "riskPercent", value: 1 },
      onOpposite: "close",
    },
  ),
  made(
    "SALT40",
    "Calm by bond against index",
    "Money that looks for shelter buys the shore bond and sells the index, and storms last for weeks. The index is held only while the ratio of bond to index lies below its average. Both markets stand in the run; the first condition keeps the bond out.",
    {
      timeframe: "1d",
      parameters: [whole("average", 20, 5, 60, 5, "bars in the average of the ratio")],
      definitions: [{ name: "ratio", rule: "close of SHORE10 / close of SALT40" }],
      long: {
        enter: { when: "close = close of SALT40 and ratio < sma(ratio, average)" },
        exit: { when: "ratio > sma(ratio, average)" },
      },
      sizing: { mode: "equityPercent", value: 100 },
    },
    { others: ["SHORE10"] },
  ),
  made(
    "WOOL",
    "Breakout with bars and ATR",
    "A new extreme is bought with a stop order, so that the market itself must go there. A trailing stop in average ranges once the trade is ahead, and an end after fifty bars. Wool holds no edge by design: what is left is cost.",
    {
      timeframe: "1d",
      parameters: [
        whole("entry", 30, 10, 100, 5, "bars whose extreme is the order's price"),
        number("far", 3, 1, 6, 0.5, "trailing distance in ATR"),
        number("ahead", 2, 0, 5, 0.5, "ATR ahead before the stop trails"),
      ],
      long: { enter: { when: "close < highest(high, entry)", order: { type: "stop", price: "highest(high, entry)", workingBars: 3 } } },
      short: { enter: { when: "close > lowest(low, entry)", order: { type: "stop", price: "lowest(low, entry)", workingBars: 3 } } },
      protect: {
        stop: { unit: "atr", value: 2.5, period: 20 },
        trail: { unit: "atr", value: "far", period: 20, activateAfter: "ahead" },
        maxBarsHeld: 50,
      },
      sizing: { mode: "riskPercent", value: 1 },
    },
  ),
  made(
    "TIDE",
    "Spike with a limit order",
    "Two days of rising power bring every idle plant on line, and the price falls back. Sold short with a limit order above the close, out at a target, at a stop, or after three days. Prices may lie below zero, so the size is a number of units.",
    {
      timeframe: "1d",
      parameters: [
        number("jump", 2, 1, 4, 0.25, "rise of two days in ATR"),
        number("lift", 0.2, 0, 1, 0.1, "limit above the close in ATR"),
      ],
      short: {
        enter: {
          when: "change(close, 2) > jump * atr(20)",
          order: { type: "limit", price: "close + lift * atr(20)", workingBars: 2, through: true },
        },
        exit: { when: "close < sma(close, 10)" },
      },
      protect: { stop: { unit: "atr", value: 3, period: 20 }, target: { unit: "r", value: 1.5 }, maxBarsHeld: 3 },
      sizing: { mode: "units", value: 2 },
    },
  ),
  made(
    "FERRY",
    "Adding to a trend",
    "What moves in the trade's favour gets another entry, up to three, each with a stop of its own; once ahead by one risk, the stop goes to the entry. Large winners pay for many small losses.",
    {
      timeframe: "1d",
      parameters: [whole("entry", 20, 10, 60, 5, "bars whose extreme must be passed")],
      long: {
        enter: { when: "close > highest(high, entry) 1 back and (not inLong or openR > 1)" },
        exit: { when: "close < lowest(low, entry) 1 back" },
      },
      short: {
        enter: { when: "close < lowest(low, entry) 1 back and (not inShort or openR > 1)" },
        exit: { when: "close > highest(high, entry) 1 back" },
      },
      protect: { stop: { unit: "atr", value: 3, period: 20 }, breakeven: { unit: "r", trigger: 1, offset: 0.1 } },
      sizing: { mode: "riskPercent", value: 0.5, base: "initial" },
      entriesAtOnce: 3,
      onOpposite: "close",
    },
  ),
  made(
    "share",
    "Shares with a rising backlog",
    "Orders that were taken become sales. The ten shares of the board whose backlog grew most against a year ago are held in equal parts; who falls behind makes room. The rank is the priority, the room the run's limit of markets.",
    {
      timeframe: "1w",
      definitions: [
        { name: "backlog", rule: 'series("backlog")' },
        { name: "growth", rule: "backlog / backlog 52 back" },
      ],
      long: { enter: { when: "growth > 1.05 and close > sma(close, 30)" }, exit: { when: "growth < 1 or barsHeld >= 12" } },
      sizing: { mode: "equalShare" },
      priority: "growth",
    },
    { every: { kind: "share", marketLimit: 10 } },
  ),
  made(
    "KELP",
    "Twenty entries, one exit",
    "The same filter and the same exit under several ways to enter: which trigger matters, or does any? Try them one by one, or let an optimization run through them and look at all, not at the best.",
    {
      timeframe: "1d",
      definitions: [
        {
          name: "trigger",
          variants: [
            { label: "averages cross", rule: "sma(close, 10) crosses above sma(close, 40)" },
            { label: "over the average", rule: "close crosses above ema(close, 50)" },
            { label: "channel of twenty", rule: "close > highest(high, 20) 1 back" },
            { label: "channel of forty", rule: "close > highest(high, 40) 1 back" },
            { label: "highest close", rule: "close = highest(close, 10)" },
            { label: "upper band", rule: "close crosses above bollinger(close, 20, 2).upper" },
            { label: "three up in a row", rule: "close > close 1 back throughout 3" },
            { label: "three down in a row", rule: "close < close 1 back throughout 3" },
            { label: "sharp dip", rule: "rsi(2) < 10" },
            { label: "MACD turns", rule: "macd().line crosses above macd().signal" },
            { label: "gap up", rule: "low > high 1 back" },
            { label: "inside bar", rule: "high < high 1 back and low > low 1 back" },
            { label: "narrowest of seven", rule: "high - low = lowest(high - low, 7)" },
            { label: "reversal", rule: "low < lowest(low, 5) 1 back and close > close 1 back" },
            { label: "strong close", rule: "ibs > 0.9" },
            { label: "weak close", rule: "ibs < 0.1" },
            { label: "trailing band turns", rule: "supertrend(10, 3).direction > supertrend(10, 3).direction 1 back" },
            { label: "trend gains strength", rule: "adx(14) crosses above 25" },
            { label: "Monday", rule: "weekday = 1" },
            { label: "turn of the month", rule: "monthday < monthday 1 back" },
          ],
          chosen: 3,
        },
      ],
      long: { enter: { when: "trigger and close > sma(close, 100)" } },
      protect: { stop: { unit: "atr", value: 3, period: 20 }, maxBarsHeld: 20 },
      sizing: { mode: "riskPercent", value: 1 },
    },
  ),
  made(
    "FERRY",
    "Week's trend, hour's entry",
    "The slow timeframe gives the bias, the fast one the entry: a pullback on hourly bars while the daily trend is up. Everything is out on Friday afternoon, since nobody wants to be asked on Monday why.",
    {
      timeframe: "1h",
      parameters: [whole("dip", 15, 5, 30, 5, "RSI below which a dip is bought")],
      long: {
        enter: { when: "rsi(3) < dip and (close > sma(close, 20)) on 1d" },
        exit: { when: "rsi(3) > 70" },
      },
      protect: { stop: { unit: "ticks", value: 24 }, exitWeekday: { weekday: 5, time: "16:30" } },
      sizing: { mode: "cash", value: 200_000 },
    },
  ),
  made(
    "KELP",
    "Channel stop that follows",
    "In on a new extreme of fifty bars; the stop is the lowest low of twenty, looked at again at every close and only ever closer. One rule is entry and exit at once.",
    {
      timeframe: "1d",
      parameters: [
        whole("entry", 50, 20, 100, 5, "bars whose extreme must be passed"),
        whole("exit", 20, 5, 50, 5, "bars whose extreme is the stop"),
      ],
      long: { enter: { when: "close > highest(high, entry) 1 back" } },
      protect: { stop: { unit: "price", value: "lowest(low, exit)", follow: true }, target: { unit: "percent", value: 60 } },
      sizing: { mode: "equityPercent", value: 80 },
    },
  ),
  made(
    "PEAT",
    "Either side of the night",
    "A bracket around the first hour: a stop order on each side, the one that fills drops the other. Points for the stop, a multiple of it for the target. Peat holds no edge; what the bracket finds here is what luck and costs leave.",
    {
      timeframe: "1d",
      parameters: [number("reach", 0.6, 0.2, 2, 0.1, "distance of both orders in ATR")],
      long: {
        enter: { when: "high - low = lowest(high - low, 7)", order: { type: "stop", price: "close + reach * atr(14)", workingBars: 2 } },
      },
      short: {
        enter: { when: "high - low = lowest(high - low, 7)", order: { type: "stop", price: "close - reach * atr(14)", workingBars: 2 } },
      },
      protect: { stop: { unit: "points", value: 2 }, target: { unit: "r", value: 2 }, maxBarsHeld: 10 },
      sizing: { mode: "units", value: 5 },
    },
  ),
];
